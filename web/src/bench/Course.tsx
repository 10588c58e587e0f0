import { Box, Button, ButtonBase, Tooltip, Typography, type BoxProps } from '@mui/material';
import { useState } from 'react';
import { type Effect, type Kind } from '../api/client';
import { kindOf, kinds, steps } from '../kinds';
import { atRest, useBenchParts } from '../state/bench';
import { useAssets, useEffects, useJobs } from '../state/derived';
import { itemsOf, useSite, type Item } from '../state/site';
import { ink, mono, serif } from '../theme';
import { GroupRow } from './GroupRow';
import { addItem, openStep } from './openStep';
import { restacked } from './stacking';
import { Swatch } from './Swatch';

/** Items as the course lists them: in their kind's own order, the rest by name. */
function ordered(items: Record<string, Item>, kind: Kind): Item[] {
  const byName = (a: Item, b: Item) => a.plan.name.localeCompare(b.plan.name, 'en', { numeric: true });
  const { order } = kinds[kind];
  return (itemsOf(items, kind) as Item[]).sort((a, b) => (order ? order(a.plan, b.plan) : byName(a, b)));
}

/** Items by the groups they are in, those in none last; each in the order of the list. */
function grouped(list: Item[]): { group: string; members: Item[] }[] {
  const of = (item: Item) => kinds[item.plan.kind].group?.(item.plan) ?? '';
  const names = [...new Set(list.map(of))].filter(Boolean).sort((a, b) => a.localeCompare(b, 'en', { numeric: true }));
  return [...names, ''].map((group) => ({ group, members: list.filter((item) => of(item) === group) }));
}

/** The order of work, down the left side. */
export function Course() {
  const { step, set } = useBenchParts('step', 'set');
  const items = useSite((s) => s.items);
  const selected = useSite((s) => s.selected);
  const select = useSite((s) => s.select);
  const commit = useSite((s) => s.commit);
  const effects = useEffects();
  const assets = useAssets();
  const jobs = useJobs();

  /** Put a patina or decal to another place of its stack. */
  const stackAt = (list: Item[], from: number, to: number) => {
    const edits = restacked(list, from, to);
    if (edits.length) commit(`order of ${list[from].plan.name}`, edits);
  };

  const rowOf = (item: Item, k: number, list: Item[]) => (
    <Row
      key={item.key}
      item={item}
      effect={effects[item.key]}
      on={item.key === selected}
      assets={assets}
      text={kindOf(item.plan)?.amount?.(item.plan, effects[item.key]) ?? ''}
      onSelect={() => {
        select(item.key === selected && kinds[item.plan.kind].toggles ? null : item.key);
        set({ ...atRest, sheetOpen: true });
      }}
      onHide={() =>
        commit(`${item.plan.visible ? 'hide' : 'show'} ${item.plan.name}`, [
          { key: item.key, plan: { ...item.plan, visible: !item.plan.visible } },
        ])
      }
      onLock={() =>
        commit(`${item.plan.locked ? 'unlock' : 'lock'} ${item.plan.name}`, [
          { key: item.key, plan: { ...item.plan, locked: !item.plan.locked } },
        ])
      }
      place={kinds[item.plan.kind].stacked ? k : undefined}
      onStack={(from, to) => stackAt(list, from, to)}
    />
  );

  return (
    <Box
      component="nav"
      aria-label="Course"
      sx={{ bgcolor: ink.paper, borderRight: `1px solid ${ink.line}`, overflowY: 'auto', py: 0.5, minHeight: 0 }}
    >
      {steps.map(({ step: name, kind, also, key }) => {
        const listed = [kind, ...also].filter((one) => one !== null).filter((one) => !kinds[one].single);
        const list = listed.flatMap((one) => ordered(items, one));
        const isOpen = step === name;
        return (
          <Box key={name}>
            <ButtonBase
              onClick={() => openStep(name)}
              aria-expanded={isOpen}
              sx={{
                width: '100%',
                px: 1.5,
                py: 0.4,
                justifyContent: 'flex-start',
                gap: 1.25,
                bgcolor: isOpen && !list.some((i) => i.key === selected) ? ink.waterPale : 'transparent',
              }}
            >
              <Typography
                sx={{ fontFamily: serif, fontStyle: 'italic', color: 'text.secondary', width: 12, fontSize: 13 }}
              >
                {key}
              </Typography>
              <Typography sx={{ fontFamily: serif, fontSize: 16, flex: 1, textAlign: 'left' }}>{name}</Typography>
              <Typography sx={{ fontFamily: mono, fontSize: 11, color: 'text.secondary' }}>
                {kind === null ? jobs.filter((j) => j.kind === 'proof').length || '' : list.length || ''}
              </Typography>
            </ButtonBase>
            {isOpen &&
              grouped(list).map(({ group, members }) => (
                <Box key={group || 'ungrouped'} sx={group ? { borderLeft: `2px solid ${ink.ink}`, ml: 0.5 } : {}}>
                  {group && <GroupRow group={group} members={members} />}
                  {members.map((item) => rowOf(item, list.indexOf(item), list))}
                </Box>
              ))}
            {isOpen && listed.length > 0 && (
              <Box sx={{ ml: 4.5 }}>
                {listed.map((one) => (
                  <Button key={one} onClick={() => addItem(one)}>
                    + {one}
                  </Button>
                ))}
              </Box>
            )}
          </Box>
        );
      })}
    </Box>
  );
}

interface RowProps {
  item: Item;
  effect: Effect | undefined;
  on: boolean;
  text: string;
  assets: ReturnType<typeof useAssets>;
  onSelect: () => void;
  onHide: () => void;
  onLock: () => void;
  /** Its place in its stack, topmost first, if its kind has one. */
  place?: number;
  onStack: (from: number, to: number) => void;
}

const toolsBeside = { display: 'flex', alignItems: 'center' } as const;
/** Of a row that is not chosen they lie over its end when it is pointed at, so that its name has the room. */
const toolsOver = {
  ...toolsBeside,
  position: 'absolute',
  right: 0,
  top: 0,
  bottom: 0,
  pl: 0.5,
  opacity: 0,
  bgcolor: ink.paper,
} as const;

function Lock({ open }: { open?: boolean }) {
  return (
    <svg width="12" height="13" viewBox="0 0 15 16" fill="none" stroke="currentColor" strokeWidth="1.3">
      <rect x="2" y="7.500" width="11" height="7.500" />
      <path d={open ? 'M4.500 7.500v-3a3 3 0 0 1 6 0' : 'M4.500 7.500v-3a3 3 0 0 1 6 0v3'} />
    </svg>
  );
}

/** What a row that is dragged carries: its place in the stack. */
const PLACE = 'application/x-cenote-place';

function Row({ item, effect, on, text, onSelect, onHide, onLock, place, onStack }: RowProps) {
  const { plan } = item;
  const [over, setOver] = useState(false);
  const dragged: BoxProps =
    place === undefined
      ? {}
      : {
          draggable: true,
          onDragStart: (e) => e.dataTransfer.setData(PLACE, String(place)),
          onDragOver: (e) => {
            if (!e.dataTransfer.types.includes(PLACE)) return;
            e.preventDefault();
            setOver(true);
          },
          onDragLeave: () => setOver(false),
          onDrop: (e) => {
            setOver(false);
            onStack(Number(e.dataTransfer.getData(PLACE)), place);
          },
        };
  const nothing = plan.visible && effect && effect.reason !== '';
  return (
    <Box
      {...dragged}
      sx={{
        bgcolor: on ? ink.water : 'transparent',
        color: on ? '#fff' : 'inherit',
        opacity: plan.visible ? 1 : 0.55,
        outline: over ? `1.5px solid ${ink.water}` : 'none',
      }}
    >
      <Box
        sx={{
          display: 'flex',
          alignItems: 'center',
          position: 'relative',
          pl: 1,
          '&:hover .tools, &:focus-within .tools': { opacity: 1 },
        }}
      >
        <ButtonBase
          onClick={onSelect}
          aria-current={on}
          sx={{ flex: 1, py: 0.4, pr: on ? 0.25 : 1.5, gap: 0.75, justifyContent: 'flex-start', minWidth: 0 }}
        >
          <Swatch key={String(on)} plan={plan} />
          <Typography
            sx={{
              flex: 1,
              textAlign: 'left',
              fontSize: 12,
              lineHeight: 1.2,
              display: '-webkit-box',
              WebkitBoxOrient: 'vertical',
              WebkitLineClamp: 2,
              overflow: 'hidden',
            }}
            title={plan.name}
          >
            {plan.name}
          </Typography>
          <Typography sx={{ fontFamily: mono, fontSize: 10.5 }}>{text}</Typography>
        </ButtonBase>
        {plan.locked && !on && <Lock />}
        <Box className="tools" sx={on ? toolsBeside : toolsOver}>
          {place !== undefined && (
            <Box sx={{ display: 'flex', flexDirection: 'column' }}>
              <ButtonBase
                aria-label={`${plan.name} higher`}
                onClick={() => onStack(place, place - 1)}
                sx={{ fontSize: 9, px: 0.25 }}
              >
                ▲
              </ButtonBase>
              <ButtonBase
                aria-label={`${plan.name} lower`}
                onClick={() => onStack(place, place + 1)}
                sx={{ fontSize: 9, px: 0.25 }}
              >
                ▼
              </ButtonBase>
            </Box>
          )}
          <Tooltip
            title={
              plan.locked
                ? 'Locked: brush, sheet and Delete leave it alone. Open the lock'
                : 'Lock: brush, sheet and Delete leave it alone'
            }
          >
            <ButtonBase aria-pressed={plan.locked} aria-label={`Lock ${plan.name}`} onClick={onLock} sx={{ px: 0.5 }}>
              <Lock open={!plan.locked} />
            </ButtonBase>
          </Tooltip>
          <Tooltip title={plan.visible ? 'Hide (H)' : 'Show (H)'}>
            <ButtonBase aria-label={`${plan.visible ? 'Hide' : 'Show'} ${plan.name}`} onClick={onHide} sx={{ px: 0.5 }}>
              <svg width="13" height="13" viewBox="0 0 16 16" fill="none" stroke="currentColor" strokeWidth="1.3">
                <path d="M1 8c2.500-5 11.500-5 14 0c-2.500 5-11.500 5-14 0z" />
                <circle cx="8" cy="8" r="2" />
                {!plan.visible && <path d="M2 14L14 2" />}
              </svg>
            </ButtonBase>
          </Tooltip>
        </Box>
      </Box>
      {nothing && (
        <Typography sx={{ px: 1.5, pb: 0.5, fontSize: 10.5, color: on ? '#FBE9C6' : 'warning.main' }}>
          0: {effect.reason}
        </Typography>
      )}
    </Box>
  );
}
