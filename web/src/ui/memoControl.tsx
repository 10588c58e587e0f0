import { memo, useLayoutEffect, useMemo, useRef, type ComponentType } from 'react';

type Props = Record<string, unknown>;

/** Alike for what is shown: callbacks always are, objects are if their values are. */
export function alike(a: unknown, b: unknown): boolean {
  if (Object.is(a, b) || (typeof a === 'function' && typeof b === 'function')) return true;
  if (typeof a !== 'object' || typeof b !== 'object' || !a || !b || Array.isArray(a) !== Array.isArray(b)) return false;
  const left = a as Props,
    right = b as Props;
  const names = Object.keys(left);
  return names.length === Object.keys(right).length && names.every((name) => alike(left[name], right[name]));
}

const sameLook = (before: object, now: object) => {
  const left = before as Props,
    right = now as Props;
  return Object.keys({ ...left, ...right }).every((name) => alike(left[name], right[name]));
};

/**
 * A control that is drawn again only when what it shows changes. Its callbacks may be new every time, as they are while
 * a plan is being dragged: it always calls the latest of them.
 */
export function memoControl<P extends object>(Part: ComponentType<P>): ComponentType<P> {
  const Kept = memo(Part, sameLook) as unknown as ComponentType<P>;
  return function MemoControl(props: P) {
    const latest = useRef(props as Props);
    useLayoutEffect(() => {
      latest.current = props as Props;
    });
    const named = Object.entries(props)
      .filter(([, value]) => typeof value === 'function')
      .map(([name]) => name)
      .join(' ');
    const stableCallbacks = useMemo(
      () =>
        Object.fromEntries(
          named
            .split(' ')
            .filter(Boolean)
            .map((name) => [
              name,
              (...given: unknown[]) => (latest.current[name] as (...args: unknown[]) => unknown)(...given),
            ]),
        ),
      [named],
    );
    return <Kept {...props} {...(stableCallbacks as Partial<P>)} />;
  };
}
