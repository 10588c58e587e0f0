import { Box, Button, ButtonBase, Menu, MenuItem, Tooltip } from '@mui/material';
import { useDropMenu } from '../../ui/dropMenu';
import { useBenchParts } from '../../state/bench';
import { useSite } from '../../state/site';
import { ink } from '../../theme';
import { columnWords, Gauge } from './Gauge';
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
        <Tooltip key={key} title={`${plan.name}: ${columnWords}. Click to show it`}>
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
      {spells.length > 1 && <SideBySide spells={spells.filter(({ key }) => key !== now)} />}
    </Box>
  );
}

/** Choose what the spell that shows is looked at beside. */
function SideBySide({ spells }: { spells: ReturnType<typeof spellsOf> }) {
  const { beside, set } = useBenchParts('beside', 'set');
  const menu = useDropMenu();
  return (
    <>
      <Button
        size="small"
        aria-pressed={Boolean(beside)}
        onClick={beside ? () => set({ beside: null }) : menu.open}
        sx={{ ml: 0.5, whiteSpace: 'nowrap' }}
      >
        {beside ? 'One alone' : 'Side by side'}
      </Button>
      <Menu {...menu.menu}>
        {spells.map(({ key, plan }) => (
          <MenuItem
            key={key}
            onClick={() => {
              menu.close();
              set({ beside: key });
            }}
          >
            {plan.name}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
