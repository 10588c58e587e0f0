import { kinds, steps } from '../kinds';
import { atRest, useBench, type Step } from '../state/bench';
import { useSite } from '../state/site';

/** Opens a step of the course, by click or key: its one item if it has only one, else none of another kind. */
export function openStep(step: Step) {
  const { kind = null, also = [] } = steps.find((s) => s.step === step) ?? {};
  const { items, selected, select } = useSite.getState();
  useBench.getState().set({ ...atRest, step, marked: [] });
  const single = kind && kinds[kind].single;
  if (single) select(single);
  else if (selected && ![kind, ...also].includes(items[selected]?.plan.kind ?? null)) select(null);
}
