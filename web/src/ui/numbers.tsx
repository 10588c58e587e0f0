import type { ReactNode } from 'react';
import { Field } from './Field';

/** Fields for the numbers of one model: a function from a field's name (and what its nought means) to its control. */
export function numbersOf<M extends object>(
  model: string,
  values: M,
  of: string,
  draft: (next: M) => void,
  commit: (label: string, next: M) => void,
) {
  return (field: keyof M & string, label: string, zero?: string): ReactNode => (
    <Field
      key={field}
      model={model}
      field={field}
      label={label}
      value={values[field] as number}
      zero={zero}
      onDraft={(v) => draft({ ...values, [field]: v })}
      onCommit={(v) => commit(`${label} of ${of}`, { ...values, [field]: v })}
    />
  );
}
