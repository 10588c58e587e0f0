import { Box, Button, MenuItem, Select, Slider, Typography } from '@mui/material';
import { useState } from 'react';
import { numbersOf } from '../../ui/numbers';
import { HandList } from '../../ui/HandList';
import { Section } from '../../ui/Section';
import { ToolRow } from '../../ui/Tools';
import { useItem } from '../../ui/useItem';
import { useSite } from '../../state/site';
import { Responses } from './Responses';
import { WeatherNumbers } from './WeatherNumbers';
import { between, changedSpell, later, shown, spellsOf, stateOf, weatherOf, type Spell } from './spells';

export function SpellSheet({ itemKey }: { itemKey: string }) {
  const { plan, remove } = useItem(itemKey, 'spell');
  const items = useSite((s) => s.items);
  const commit = useSite((s) => s.commit);
  const draft = useSite((s) => s.draft);
  if (!plan) return null;
  const weather = weatherOf(items);
  const shows = weather.spell === itemKey;
  // Only of the one that shows there is something to see while it is changed.
  const change = (next: Spell) => shows && draft('weather', { ...weather, ...stateOf(next) });
  const keep = (label: string, next: Spell) => commit(label, changedSpell(items, itemKey, next));
  const number = numbersOf('SpellPlan', plan, plan.name, change, keep);
  return (
    <>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, mb: 1 }}>
        <Button
          variant={shows ? 'contained' : 'outlined'}
          disabled={shows}
          onClick={() => commit(`show ${plan.name}`, shown(items, itemKey, plan))}
        >
          {shows ? 'This one shows' : 'Show it'}
        </Button>
        {!shows && (
          <Button onClick={() => keep(`${plan.name} as it is now`, { ...plan, ...stateOf(weather) })}>
            Take what shows now
          </Button>
        )}
      </Box>
      <WeatherNumbers number={number} />
      <Section title="Wind">
        {number('wind_from', 'comes from')}
        {number('wind', 'speed')}
        {number('gusts', 'gusts')}
      </Section>
      <Section title="When">
        {number('season', 'time of the year')}
        {number('years', 'years it has stood')}
      </Section>
      {shows && plan.snow > 0 && <SnowByHand />}
      {shows && <AsTimeGoes from={plan} />}
      {shows && <Toward from={plan} />}
      {shows && <Responses />}
      <Button color="error" onClick={remove}>
        Delete this spell
      </Button>
    </>
  );
}

/** Paths through the snow that lies, for all spells with snow. */
function SnowByHand() {
  return (
    <Section title="Paths in the snow" remark="drag in the plate">
      <ToolRow
        paintOn="weather"
        tools={[
          { tool: 'less', label: 'Tread', help: 'Tread snow down along a way; strength says how far.' },
          { tool: 'more', label: 'Walk', help: 'Leave footprints along a way; strength says how deep.' },
          { tool: 'erase', label: 'Sweep', help: 'Sweep a way clear of snow.' },
        ]}
      />
      <HandList target="weather" />
    </Section>
  );
}

/** The spell that shows some hours on: the open dries first and hollows last, snow goes where the sun is. */
function AsTimeGoes({ from }: { from: Spell }) {
  const items = useSite((s) => s.items);
  const commit = useSite((s) => s.commit);
  const draft = useSite((s) => s.draft);
  const [hours, setHours] = useState(0);
  const on = (value: number) => ({ ...weatherOf(items), ...later(stateOf(from), value) });
  const said = `${hours} h of sun and wind`;
  return (
    <Section title="As time goes by" remark={said}>
      <Slider
        size="small"
        min={0}
        max={48}
        step={1}
        value={hours}
        aria-label="Hours of sun and wind"
        aria-valuetext={said}
        onChange={(_, value) => {
          setHours(value as number);
          draft('weather', on(value as number));
        }}
        onChangeCommitted={(_, value) =>
          commit(`${from.name}, ${value as number} h on`, [{ key: 'weather', plan: on(value as number) }])
        }
      />
    </Section>
  );
}

/** From the spell that shows part of the way to another. */
function Toward({ from }: { from: Spell }) {
  const items = useSite((s) => s.items);
  const commit = useSite((s) => s.commit);
  const draft = useSite((s) => s.draft);
  const others = spellsOf(items).filter(({ plan }) => plan.name !== from.name);
  const [chosen, setChosen] = useState('');
  const [share, setShare] = useState(0);
  const to = others.find(({ key }) => key === chosen) ?? others[0];
  if (!to) return null;
  const weather = weatherOf(items);
  const on = (value: number) => ({ ...weather, ...between(stateOf(from), stateOf(to.plan), value) });
  return (
    <Section title="On the way to" remark={`${Math.round(share * 100)} %`}>
      <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>
        Drag to see what lies between. Let go, and the plate stays there until a spell is shown again.
      </Typography>
      <Select
        variant="standard"
        value={to.key}
        onChange={(e) => setChosen(e.target.value)}
        inputProps={{ 'aria-label': 'Spell it goes to' }}
        sx={{ fontSize: 12.5, width: '100%' }}
      >
        {others.map(({ key, plan }) => (
          <MenuItem key={key} value={key}>
            {plan.name}
          </MenuItem>
        ))}
      </Select>
      <Slider
        size="small"
        min={0}
        max={1}
        step={0.01}
        value={share}
        aria-label={`Share of the way to ${to.plan.name}`}
        onChange={(_, value) => {
          setShare(value as number);
          draft('weather', on(value as number));
        }}
        onChangeCommitted={(_, value) =>
          commit(`${Math.round((value as number) * 100)} % of the way to ${to.plan.name}`, [
            { key: 'weather', plan: on(value as number) },
          ])
        }
      />
    </Section>
  );
}
