import { useEffect } from 'react';
import { steps, useBench } from '../state/bench';
import { useSite } from '../state/site';

/** Keys of the bench; see the sheet of all keys under "?". */
export const keyList: [string, string][] = [
  ['1 – 8', 'step of the course'], ['P', 'paint more'], ['T', 'thin'], ['O', 'place one'], ['[ ]', 'brush smaller, larger'], [', .', 'turn before placing'],
  ['X', 'mask of the selected patina'], ['F', 'frame the selected'], ['D', 'duplicate'], ['H', 'hide or show'], ['Esc', 'put the tool down'], ['Del', 'delete'],
  ['Ctrl Z', 'undo'], ['Ctrl Shift Z', 'redo'],
];

export function useKeys() {
  useEffect(() => {
    const down = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      const typing = target.tagName === 'INPUT' || target.tagName === 'TEXTAREA' || target.isContentEditable;
      const key = event.key.toLowerCase();
      const site = useSite.getState();
      const bench = useBench.getState();
      if ((event.ctrlKey || event.metaKey) && key === 'z') {
        if (typing) return;
        event.preventDefault();
        void (event.shiftKey ? site.stepForward() : site.stepBack());
        return;
      }
      if (typing || event.ctrlKey || event.metaKey || event.altKey) return;
      const step = steps.find((s) => s.key === key);
      const plan = site.selected ? site.items[site.selected]?.plan : undefined;
      const painted = plan?.kind === 'drift' || plan?.kind === 'patina';
      if (step) bench.set({ step: step.step });
      else if (key === 'p' && painted) bench.set({ tool: 'more' });
      else if (key === 't' && painted) bench.set({ tool: 'less' });
      else if (key === 'o' && bench.armed) bench.set({ tool: 'place' });
      else if (key === 'escape') bench.set({ tool: 'look', armed: null });
      else if (key === '[') bench.set({ brush: { ...bench.brush, radius: Math.max(0.05, bench.brush.radius / 1.25) } });
      else if (key === ']') bench.set({ brush: { ...bench.brush, radius: Math.min(50, bench.brush.radius * 1.25) } });
      else if (key === 'x') bench.set({ view: bench.view === 'mask' ? 'lit' : 'mask' });
      else if (key === 'h' && site.selected && plan) site.commit(`${plan.visible ? 'hide' : 'show'} ${plan.name}`, [{ key: site.selected, plan: { ...plan, visible: !plan.visible } }]);
      else if ((key === 'delete' || key === 'backspace') && site.selected && plan && plan.kind !== 'ground' && plan.kind !== 'light')
        site.commit(`delete ${plan.name}`, [{ key: site.selected, plan: null }]);
      else if (['f', 'd', ',', '.'].includes(key)) window.dispatchEvent(new CustomEvent('cenote-key', { detail: key }));
    };
    window.addEventListener('keydown', down);
    return () => window.removeEventListener('keydown', down);
  }, []);
}
