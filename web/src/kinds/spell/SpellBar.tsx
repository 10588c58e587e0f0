import { Box, ButtonBase, Tooltip } from '@mui/material';
import { useSite } from '../../state/site';
import { ink } from '../../theme';
import { Gauge } from './Gauge';
import { shown, spellsOf, weatherOf } from './spells';

/** The spells of a site in a row of gauges, the one that shows with its name; a click shows another. */
export function SpellBar() {
  const items = useSite((s) => s.items);
  const commit = useSite((s) => s.commit);
  const spells = spellsOf(items);
  if (!spells.length) return null;
  const now = weatherOf(items).spell;
  return (
    <Box role="radiogroup" aria-label="Spell" sx={{ display: 'flex', minWidth: 0, overflow: 'hidden', ml: 1.5 }}>
      {spells.map(({ key, plan }) => (
        <Tooltip key={key} title={`${plan.name}: wet, standing water, snow, frost, dust. Click to show it`}>
          <ButtonBase
            role="radio"
            aria-checked={key === now}
            aria-label={plan.name}
            onClick={() => key !== now && commit(`show ${plan.name}`, shown(items, key, plan))}
            sx={{
              gap: 0.75,
              px: 0.75,
              py: 0.5,
              fontSize: 12,
              whiteSpace: 'nowrap',
              border: `1px solid ${ink.line}`,
              ml: '-1px',
              bgcolor: key === now ? ink.water : 'transparent',
              color: key === now ? '#fff' : ink.water,
            }}
          >
            <Gauge state={plan} />
            {key === now && plan.name}
          </ButtonBase>
        </Tooltip>
      ))}
    </Box>
  );
}
