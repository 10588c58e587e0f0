import { useBench } from '../../../state/bench';
import { rounded, type PlateTool, type ToolContext } from './tool';

/** A line by clicks: Enter or a double click ends it, Backspace takes the last point back. */
export function drawTool({ scene }: ToolContext): PlateTool {
  let pressed: { x: number; y: number } | null = null;
  const tell = () => {
    const { drawing, set } = useBench.getState();
    if (!drawing) return;
    const count = drawing.points.length;
    set({
      hovered: {
        text: count
          ? `${drawing.what}: ${count} point${count === 1 ? '' : 's'} · Enter ends it, Backspace takes one back`
          : `Click in the plate along ${drawing.what}; Enter ends it, Esc gives it up`,
      },
    });
  };
  tell();
  const finish = () => {
    const { drawing } = useBench.getState();
    if (drawing && drawing.points.length >= 2) drawing.done(drawing.points);
  };
  return {
    cursor: 'crosshair',
    holdsLeft: false,
    down: (event) => (pressed = { x: event.clientX, y: event.clientY }),
    move: (event) => {
      if (scene.picker.surfaceAt(event.clientX, event.clientY)) tell();
    },
    up: (event) => {
      const still = pressed && Math.hypot(event.clientX - pressed.x, event.clientY - pressed.y) < 4;
      pressed = null;
      const hit = still ? scene.picker.surfaceAt(event.clientX, event.clientY) : null;
      const { drawing, set } = useBench.getState();
      if (hit && drawing && drawing.points.length < 500)
        set({ drawing: { ...drawing, points: [...drawing.points, rounded(hit.point)] } });
      tell();
    },
    double: () => {
      const { drawing, set } = useBench.getState();
      if (!drawing) return;
      // The double click itself has set two points in one place.
      set({ drawing: { ...drawing, points: drawing.points.slice(0, -1) } });
      finish();
    },
    dispose: () => useBench.getState().set({ hovered: null }),
    key: (key) => {
      const { drawing, set } = useBench.getState();
      if (key === 'enter') finish();
      if (key === 'backspace' && drawing) set({ drawing: { ...drawing, points: drawing.points.slice(0, -1) } });
    },
  };
}
