import { Button, Menu, MenuItem, ToggleButton, ToggleButtonGroup, Tooltip, Typography } from '@mui/material';
import { useEffect, useState } from 'react';
import { api, type PlanOf, type Rule, type Schemas } from '../api/client';
import { defaults } from '../api/defaults';
import { useBench } from '../state/bench';
import { useSite } from '../state/site';
import { Section } from './Section';
import { measures, type Measure } from '../api/measures';
import { RuleControl } from './RuleControl';
import { useDropMenu } from './dropMenu';
import { useSight, type Sight } from './sight';

/** What has rules, and the addresses of the list within its plan. */
type Ruled = PlanOf<'drift'> | PlanOf<'patina'> | PlanOf<'ground'> | PlanOf<'beads'>;

export interface RuleList {
  itemKey: string;
  plan: Ruled;
  rules: Rule[];
  /** The item the histograms and markers are asked for: its plan with this list as its rules. */
  asked: PlanOf<'drift'> | PlanOf<'patina'>;
  title?: string;
  remark: string;
  verb: string;
  empty?: string;
  /** So many rules the list holds. */
  most?: number;
  onDraft: (rules: Rule[]) => void;
  onCommit: (label: string, rules: Rule[]) => void;
  /** Show one measure alone, where that can be shown; null: no longer. */
  onShow?: (rule: Rule | null) => void;
}

function freshRule(measure: Measure): Rule {
  const { model, start } = measures[measure];
  const [rise_start, rise_end, fall_start, fall_end] = start;
  return {
    ...defaults(model),
    measure,
    active: true,
    strength: 1,
    gate: { rise_start, rise_end, fall_start, fall_end },
  } as unknown as Rule;
}

/** Histograms of an item's rules; asked for again when measures, surfaces or the site change, not while a gate moves. */
function useHistograms(
  key: string,
  plan: PlanOf<'drift'> | PlanOf<'patina'>,
  rules: Rule[],
  sight: Sight | null,
): Schemas['Histogram'][] {
  const [found, setFound] = useState<Schemas['Histogram'][]>([]);
  const site = useSite((s) => s.id);
  const saved = useSite((s) => s.items[key]?.plan);
  const revision = useSite((s) => s.revision);
  const surfaces = plan.kind === 'drift' ? plan.surfaces : plan.uses.map((u) => u.surface);
  const settings = JSON.stringify([
    surfaces,
    rules.map((rule) => ({ ...rule, gate: null, strength: null, active: null })),
  ]);
  useEffect(() => {
    let stale = false;
    const timer = window.setTimeout(async () => {
      try {
        const { data } = await api.POST('/api/sites/{site_id}/histograms', {
          params: { path: { site_id: site } },
          body: { key, plan: { ...plan, rules }, sight },
        });
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
  }, [key, site, settings, saved, revision, sight]);
  return found;
}

/** Values of the rules' measures under the pointer in the plate. */
function useMarkers(key: string, plan: PlanOf<'drift'> | PlanOf<'patina'>, rules: Rule[]): (number | null)[] {
  const [found, setFound] = useState<(number | null)[]>([]);
  const site = useSite((s) => s.id);
  const spot = useBench((s) => s.spot);
  useEffect(() => {
    if (!spot || rules.length === 0) return setFound([]);
    let stale = false;
    const timer = window.setTimeout(async () => {
      try {
        const { data } = await api.POST('/api/sites/{site_id}/values', {
          params: { path: { site_id: site } },
          body: { key, plan: { ...plan, rules }, spot },
        });
        if (data && !stale) setFound(data);
      } catch {
        /* The marker is a courtesy; without it the gates work. */
      }
    }, 60);
    return () => {
      stale = true;
      window.clearTimeout(timer);
    };
    // Only the pointer's place asks again.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [spot, key, site]);
  return spot ? found : [];
}

/** The list of rules that say where. */
export function Rules({
  itemKey,
  plan,
  rules,
  asked,
  title = 'Where',
  remark,
  verb,
  empty,
  most = Infinity,
  onDraft,
  onCommit,
  onShow,
}: RuleList) {
  const { open, close, menu } = useDropMenu();
  const [inView, setInView] = useState(false);
  const sight = useSight(inView);
  const histograms = useHistograms(itemKey, asked, rules, sight);
  const markers = useMarkers(itemKey, asked, rules);
  const replaced = (index: number, rule: Rule) => rules.map((r, k) => (k === index ? rule : r));
  return (
    <Section title={title} remark={remark}>
      {rules.length > 0 && (
        <Tooltip title="What the histograms and shares count: all of the surfaces, or what the plate shows of them">
          <ToggleButtonGroup
            exclusive
            size="small"
            value={inView}
            onChange={(_, to) => to !== null && setInView(to as boolean)}
            aria-label={`${title}: counted`}
            sx={{ mb: 0.5, '& button': { py: 0, px: 1, fontSize: 11 } }}
          >
            <ToggleButton value={false}>all of them</ToggleButton>
            <ToggleButton value={true}>what is in view</ToggleButton>
          </ToggleButtonGroup>
        </Tooltip>
      )}
      {rules.map((rule, k) => (
        <RuleControl
          key={k}
          rule={rule}
          verb={verb}
          histogram={histograms[k]}
          marker={markers[k]}
          onShow={onShow}
          onDraft={(next) => onDraft(replaced(k, next))}
          onCommit={(next) => onCommit(`${rule.measure} rule of ${plan.name}`, replaced(k, next))}
          onRemove={() =>
            onCommit(
              `remove ${rule.measure} rule of ${plan.name}`,
              rules.filter((_, n) => n !== k),
            )
          }
        />
      ))}
      {rules.length === 0 && (
        <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>
          {empty ?? 'No rule: everywhere on its surfaces.'}
        </Typography>
      )}
      {rules.length < most && <Button onClick={open}>+ rule</Button>}
      <Menu {...menu}>
        {(Object.keys(measures) as Measure[])
          .filter((m) => measures[m].only.length === 0 || measures[m].only.includes(asked.kind))
          .map((m) => (
            <MenuItem
              key={m}
              dense
              onClick={() => {
                close();
                onCommit(`${m} rule for ${plan.name}`, [...rules, freshRule(m)]);
              }}
            >
              <Typography sx={{ width: 92, fontSize: 12.5 }}>{measures[m].title}</Typography>
              <Typography sx={{ fontSize: 11, color: 'text.secondary' }}>{measures[m].says}</Typography>
            </MenuItem>
          ))}
      </Menu>
    </Section>
  );
}
