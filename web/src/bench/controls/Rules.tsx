import { Button, Menu, MenuItem, Typography } from '@mui/material';
import { useEffect, useState } from 'react';
import { api, type PlanOf, type Rule, type Schemas } from '../../api/client';
import { useSite } from '../../state/site';
import { Section } from './Section';
import { measures } from './gate';
import { RuleControl } from './RuleControl';

type Ruled = PlanOf<'drift'> | PlanOf<'patina'>;

const counting = { active: true, strength: 1 };
const fresh: Record<Rule['measure'], Rule> = {
  slope: { ...counting, measure: 'slope', gate: { rise_start: 0, rise_end: 0, fall_start: 35, fall_end: 50 } },
  height: { ...counting, measure: 'height', gate: { rise_start: 0, rise_end: 0.5, fall_start: 50, fall_end: 50 }, above: 'site' },
  shelter: { ...counting, measure: 'shelter', gate: { rise_start: 0.05, rise_end: 0.3, fall_start: 1, fall_end: 1 }, reach: 1.5 },
  noise: { ...counting, measure: 'noise', gate: { rise_start: 0.4, rise_end: 0.6, fall_start: 1, fall_end: 1 }, size: 1.5, detail: 3, seed: 1 },
  painted: { ...counting, measure: 'painted', gate: { rise_start: 0, rise_end: 1, fall_start: 1, fall_end: 1 } },
};

/** Histograms of an item's rules; asked for again when measures, surfaces or the site change, not while a gate moves. */
function useHistograms(key: string, plan: Ruled): Schemas['Histogram'][] {
  const [found, setFound] = useState<Schemas['Histogram'][]>([]);
  const site = useSite((s) => s.id);
  const saved = useSite((s) => s.items[key]?.plan);
  const revision = useSite((s) => s.revision);
  const surfaces = plan.kind === 'drift' ? plan.surfaces : plan.uses?.map((u) => u.surface);
  const settings = JSON.stringify([surfaces, (plan.rules ?? []).map((rule) => ({ ...rule, gate: null, strength: null, active: null }))]);
  useEffect(() => {
    let stale = false;
    const timer = window.setTimeout(async () => {
      try {
        const { data } = await api.POST('/api/sites/{site_id}/histograms', { params: { path: { site_id: site } }, body: { key, plan } });
        if (data && !stale) setFound(data);
      } catch {
        /* Without histograms the gates still work; they are asked for again with the next change. */
      }
    }, 120);
    return () => {
      stale = true;
      window.clearTimeout(timer);
    };
    // The plan itself is left out on purpose: gates in motion need no new histogram.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key, site, settings, saved, revision]);
  return found;
}

/** The list of rules that say where. */
export function Rules<P extends Ruled>({ itemKey, plan, remark, onDraft, onCommit }: { itemKey: string; plan: P; remark: string; onDraft: (plan: P) => void; onCommit: (label: string, plan: P) => void }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const histograms = useHistograms(itemKey, plan);
  const rules = plan.rules ?? [];
  const replaced = (index: number, rule: Rule) => ({ ...plan, rules: rules.map((r, k) => (k === index ? rule : r)) });
  return (
    <Section title="Where" remark={remark}>
      {rules.map((rule, k) => (
        <RuleControl
          key={k} rule={rule} kind={plan.kind} histogram={histograms[k]}
          onDraft={(next) => onDraft(replaced(k, next))}
          onCommit={(next) => onCommit(`${rule.measure} rule of ${plan.name}`, replaced(k, next))}
          onRemove={() => onCommit(`remove ${rule.measure} rule of ${plan.name}`, { ...plan, rules: rules.filter((_, n) => n !== k) })}
        />
      ))}
      {rules.length === 0 && <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>No rule: everywhere on its surfaces.</Typography>}
      <Button onClick={(e) => setAnchor(e.currentTarget)}>+ rule</Button>
      <Menu anchorEl={anchor} open={Boolean(anchor)} onClose={() => setAnchor(null)}>
        {(Object.keys(measures) as Rule['measure'][]).map((m) => (
          <MenuItem key={m} onClick={() => { setAnchor(null); onCommit(`${m} rule for ${plan.name}`, { ...plan, rules: [...rules, fresh[m]] }); }}>
            {measures[m].title} <Typography sx={{ ml: 1, fontSize: 11, color: 'text.secondary' }}>{measures[m].about}</Typography>
          </MenuItem>
        ))}
      </Menu>
    </Section>
  );
}
