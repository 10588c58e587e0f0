import { kinds, steps } from '../kinds';
import { atRest, useBench, type Step } from '../state/bench';
import type { Kind } from '../api/client';
import { newKey, useSite } from '../state/site';

/** Opens a step of the course, by click or key: its one item if it has only one, else none of another kind. */
export function openStep(step: Step) {
  const { kind = null, also = [] } = steps.find((s) => s.step === step) ?? {};
  const { items, selected, select } = useSite.getState();
  useBench.getState().set({ ...atRest, step, marked: [] });
  const single = kind && kinds[kind].single;
  if (single) select(single);
  else if (selected && ![kind, ...also].includes(items[selected]?.plan.kind ?? null)) select(null);
}

/** Opens an item's sheet, with the step of the course it is listed in. */
export function openItem(key: string) {
  const { items, select } = useSite.getState();
  const kind = items[key]?.plan.kind;
  const step = steps.find((s) => s.kind === kind || s.also.some((one) => one === kind));
  useBench.getState().set({ ...atRest, sheetOpen: true, marked: [], ...(step ? { step: step.step } : {}) });
  select(key);
}

/** Adds an item with the settings it starts with and selects it; kinds that are set down in the plate show what there is. */
export function addItem(kind: Kind) {
  const { items, commit, select } = useSite.getState();
  const plan = kinds[kind].fresh?.(items);
  if (!plan) {
    select(null);
    useBench.getState().set({ sheetOpen: true });
    return;
  }
  const key = newKey(kind);
  commit(`new ${kind}`, [{ key, plan }]);
  select(key);
}
