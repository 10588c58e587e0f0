import { kinds, steps } from '../../../kinds';
import type { KindView } from '../../../kinds/kind';
import { useBench } from '../../../state/bench';
import { Ghost } from '../../../plate/Ghost';
import type { Hit } from '../../../plate/Picker';
import { Ring } from '../../../plate/Ring';
import type { PlateTool, ToolContext } from './tool';

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
  const preview = () => ghost.show(receiving().flat ? undefined : coming()?.id, over, turn, size);
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
      receiving().setDown?.(scene, { thing: things[next++ % things.length], hit, turn, size });
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

/** The kind whose step is open, if things can be set down in it; else pieces. */
function receiving(): KindView {
  const open = steps.find(({ step }) => step === useBench.getState().step)?.kind;
  return open && kinds[open].setDown ? kinds[open] : kinds.piece;
}
