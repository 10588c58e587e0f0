import { useQuery } from '@tanstack/react-query';
import { api, given, type PlanOf } from '../../api/client';
import type { Setting } from '../../api/settings';
import { Field } from '../../ui/Field';
import { Section } from '../../ui/Section';
import { usePlan } from '../../state/site';
import { dialValue, turned, type Dial } from './dials';

const STEPS = 100;

/** A dial as controls know a setting. */
const settingOf = (dial: Dial): Setting => ({
  unit: dial.unit,
  min: dial.low,
  max: dial.high,
  step: (dial.high - dial.low) / STEPS,
  help: dial.says,
  fallback: dial.low,
  whole: false,
  number: true,
  slider: { min: dial.low, max: dial.high, curve: 1 },
});

export function useWeatherings() {
  return useQuery({
    queryKey: ['weatherings'],
    staleTime: Infinity,
    queryFn: async () => given(await api.GET('/api/sites/weatherings')),
  }).data;
}

interface Props {
  plan: PlanOf<'patina'>;
  onDraft: (plan: PlanOf<'patina'>) => void;
  onCommit: (label: string, plan: PlanOf<'patina'>) => void;
}

/** How much of it there is, its years, and the few numbers that mean something for its kind. */
export function Dials({ plan, onDraft, onCommit }: Props) {
  const weather = usePlan('weather', 'weather');
  const kind = useWeatherings()?.find((one) => one.key === plan.weathering);
  const own = (field: 'amount' | 'pace' | 'ahead', label: string) => (
    <Field
      model="PatinaPlan"
      field={field}
      label={label}
      value={plan[field]}
      onDraft={(value) => onDraft({ ...plan, [field]: value })}
      onCommit={(value) => onCommit(`${label} of ${plan.name}`, { ...plan, [field]: value })}
    />
  );
  const years = Math.max(0, (weather?.years ?? 0) + plan.ahead);
  return (
    <Section
      title={kind ? kind.title : 'How much'}
      remark={plan.pace > 0 ? `${Number(years.toFixed(1))} years old` : 'does not change with the years'}
    >
      {own('amount', 'amount')}
      {kind?.dials.map((dial) => {
        const value = dialValue(plan, dial);
        return value === null ? null : (
          <Field
            key={dial.title}
            model="PatinaPlan"
            field={dial.title}
            declared={settingOf(dial)}
            label={dial.title}
            value={value}
            onDraft={(v) => onDraft(turned(plan, dial, v))}
            onCommit={(v) => onCommit(`${dial.title} of ${plan.name}`, turned(plan, dial, v))}
          />
        );
      })}
      {own('pace', 'spreads within')}
      {plan.pace > 0 && own('ahead', 'older than the site by')}
    </Section>
  );
}
