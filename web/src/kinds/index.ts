import type { ItemPlan, Kind } from '../api/client';
import type { Step } from '../state/bench';
import type { KindView } from './kind';

const found = import.meta.glob<{ default: KindView | KindView[] }>('./*/index.ts', { eager: true });
const all = Object.values(found).flatMap((module) => module.default);

/** All kinds of items by name. */
export const kinds = Object.fromEntries(all.map((view) => [view.kind, view])) as Record<Kind, KindView>;

/** The parts of the plate that the kinds bring. */
export const partsOfKinds = all.flatMap(({ parts = [] }) => parts);

/** The kind of an item. */
export const kindOf = (plan: ItemPlan | null | undefined): KindView | undefined =>
  plan ? kinds[plan.kind] : undefined;

const PROOFS = { step: 'Proofs' as Step, kind: null, also: [], key: '8' };

const joining = (step: Step) => all.filter(({ joins }) => joins === step).map(({ kind }) => kind);

/** The order of work: a step for each kind that has one, and proofs at the end. */
export const steps: { step: Step; kind: Kind | null; also: Kind[]; key: string }[] = [
  ...all
    .flatMap(({ kind, step }) => (step ? { step: step.name, kind, also: joining(step.name), key: step.key } : []))
    .sort((a, b) => a.key.localeCompare(b.key)),
  PROOFS,
];
