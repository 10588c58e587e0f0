import type { PlanOf } from '../../api/client';
import { fresh } from '../../api/defaults';
import { freshDecal, freshPiece, nextOrder } from '../../bench/fresh';
import { useBench } from '../../state/bench';
import { newKey, useSite } from '../../state/site';
import { Ghost } from '../Ghost';
import type { Hit } from '../Picker';
import { Ring } from '../Ring';
import { rounded, type PlateTool, type ToolContext } from './tool';

/**
 * Set down one thing a click. Several armed assets go in turn; turn (, .) and size (- =) are set before the click.
 */
export function placeTool({ scene }: ToolContext): PlateTool {
  const ring = new Ring(scene);
  const ghost = new Ghost(scene);
  let turn = 0;
  let size = 1;
  let next = 0;
  let pressed: { x: number; y: number } | null = null;
  let over: Hit | null = null;
  const armed = () => useBench.getState().armed ?? [];
  const coming = () => armed()[next % Math.max(1, armed().length)];
  // A decal is projected onto what it meets; it has no body of its own to show.
  const preview = () => ghost.show(useBench.getState().step === 'Decals' ? undefined : coming()?.id, over, turn, size);
  const about = () => {
    const thing = coming();
    return `${thing?.title ?? ''}${turn ? `, turned ${turn}°` : ''}${size !== 1 ? `, size ${size.toFixed(2)} ×` : ''}`;
  };
  return {
    cursor: 'crosshair',
    holdsLeft: false,
    down: (event) => (pressed = { x: event.clientX, y: event.clientY }),
    move: (event) => {
      const hit = scene.picker.surfaceAt(event.clientX, event.clientY);
      over = hit;
      ring.show(hit, 0.25 * size);
      preview();
      useBench.getState().set({
        hovered: hit
          ? {
              text: `${about()} · ${hit.point.x.toFixed(2)} east, ${hit.point.y.toFixed(2)} up, ${hit.point.z.toFixed(2)} south`,
            }
          : null,
      });
    },
    up: (event) => {
      const still = pressed && Math.hypot(event.clientX - pressed.x, event.clientY - pressed.y) < 4;
      pressed = null;
      const hit = still ? scene.picker.surfaceAt(event.clientX, event.clientY) : null;
      const things = armed();
      if (!hit || things.length === 0) return;
      // The thing itself is there in a moment; the next is shown when the pointer moves on.
      over = null;
      preview();
      useBench.getState().set({ hovered: null });
      const { step } = useBench.getState();
      const thing = things[next++ % things.length];
      if (step === 'Decals') setDecal(thing, hit, scene.stage.store.info(thing.id).aspect);
      else if (step === 'Drifts') setInDrift(thing, hit, turn, size, scene.picker.toLocal(hit.owner, hit.point));
      else setPiece(thing, hit, turn, size, scene.picker.groundHeight(hit.point.x, hit.point.z));
    },
    key: (key) => {
      if (key === ',' || key === '.') turn = (turn + (key === '.' ? 15 : -15) + 360) % 360;
      if (key === '-' || key === '=')
        size = Math.min(20, Math.max(0.05, Number((size * (key === '=' ? 1.1 : 1 / 1.1)).toFixed(3))));
      if ([',', '.', '-', '='].includes(key)) useBench.getState().set({ hovered: { text: about() } });
      preview();
    },
    leave: () => {
      over = null;
      ring.show(null, 1);
      preview();
    },
    dispose: () => {
      ring.dispose();
      ghost.dispose();
    },
  };
}

function setDecal(thing: { id: string; title: string }, hit: Hit, aspect: number) {
  const { items, commit, select } = useSite.getState();
  const key = newKey('decal');
  commit('place a decal', [
    { key, plan: freshDecal(items, thing.id, thing.title, rounded(hit.point), rounded(hit.normal), hit.owner, aspect) },
  ]);
  select(key);
  useBench.getState().set({ tool: 'look', armed: null });
}

function setPiece(thing: { id: string; title: string }, hit: Hit, turn: number, size: number, ground: number | null) {
  const { items, commit, say } = useSite.getState();
  const key = newKey('piece');
  const at = ground === null ? null : Number(ground.toFixed(4));
  commit('place a piece', [
    { key, plan: freshPiece(items, thing.id, thing.title, rounded(hit.point), turn, size, at) },
  ]);
  say('Placed. Click again for another; Esc when done.');
}

function setInDrift(
  thing: { id: string; title: string },
  hit: Hit,
  turn: number,
  size: number,
  local: Parameters<typeof rounded>[0],
) {
  const { items, commit, selected } = useSite.getState();
  if (!selected || items[selected]?.plan.kind !== 'drift') return;
  const plan: PlanOf<'placed'> = fresh('placed', {
    name: `${thing.title} by hand`,
    target: selected,
    owner: hit.owner,
    things: [{ asset: thing.id, point: rounded(local), turn, size }],
    order: nextOrder(items),
  });
  commit(`set down ${thing.title}`, [{ key: newKey('placed'), plan }]);
}
