import { Field } from '../controls/Field';
import { Section } from '../controls/Section';
import { useItem } from '../controls/useItem';

export function LightSheet({ itemKey }: { itemKey: string }) {
  const { plan, change, keep } = useItem(itemKey, 'light');
  if (!plan) return null;
  type Numbers = 'azimuth' | 'elevation' | 'turbidity' | 'cloud' | 'exposure' | 'haze' | 'seed';
  const number = (field: Numbers, label: string, slider?: { min: number; max: number; curve?: number }) => (
    <Field model="LightPlan" field={field} label={label} value={plan[field]} slider={slider} onDraft={(v) => change({ ...plan, [field]: v })} onCommit={(v) => keep(label, { ...plan, [field]: v })} />
  );
  return (
    <>
      <Section title="Sun">
        {number('azimuth', 'stands in the', { min: 0, max: 360 })}
        {number('elevation', 'height', { min: 1, max: 90 })}
      </Section>
      <Section title="Sky">
        {number('cloud', 'cloud', { min: 0, max: 1 })}
        {number('turbidity', 'haziness of the air', { min: 1.8, max: 10 })}
        {number('haze', 'distance pales', { min: 0, max: 1 })}
        {number('seed', 'seed')}
      </Section>
      <Section title="Picture">{number('exposure', 'exposure', { min: -3, max: 3 })}</Section>
    </>
  );
}
