import { useEffect } from 'react';
import { kindOf, steps } from '../kinds';
import { atRest, useBench } from '../state/bench';
import { useSite } from '../state/site';
import { startLine, takeInTurn } from '../kinds/drift/handWork';
import { openStep } from './openStep';

/** Keys of the bench; see the sheet of all keys under "?". */
export const keyList: [string, string][] = [
  ['1 – 8', 'step of the course'],
  ['P', 'paint more'],
  ['T', 'thin'],
  ['O', 'place one'],
  ['L', 'along a line'],
  ['Q', 'lasso'],
  ['M', 'pick and move single things'],
  ['[ ]', 'brush smaller, larger'],
  [', .', 'turn before placing, or what is picked'],
  ['- =', 'smaller, larger before placing, or what is picked'],
  ['hold W', 'why here: what stands and lies under the pointer, what does not, and the reasons'],
  ['X', 'mask of the selected patina, drift or decal'],
  ['F', 'frame the selected'],
  ['D', 'duplicate'],
  ['H', 'hide or show'],
  ['Esc', 'put the tool down'],
  ['Del', 'delete'],
  ['Ctrl Z', 'undo'],
  ['Ctrl Shift Z', 'redo'],
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
      const kind = kindOf(plan);
      const { painted, scattered } = kind ?? {};
      if (step) openStep(step.step);
      else if (key === 'p' && painted) bench.set({ tool: 'more' });
      else if (key === 't' && painted) bench.set({ tool: 'less' });
      else if (key === 'o' && scattered) takeInTurn(site.selected!);
      else if (key === 'l' && scattered && site.selected) startLine(site.selected);
      else if (key === 'q' && scattered) bench.set({ ...atRest, picked: bench.picked, tool: 'lasso' });
      else if (key === 'm' && scattered) bench.set({ ...atRest, picked: bench.picked, tool: 'pick' });
      else if ('pt'.includes(key)) site.say('Choose a drift or a patina in the course first: the brush goes to it.');
      else if ('olqm'.includes(key)) site.say('Choose a drift in the course first: this key works on it.');
      else if (key === 'escape') bench.set(atRest);
      else if (key === '[') bench.set({ brush: { ...bench.brush, radius: Math.max(0.05, bench.brush.radius / 1.25) } });
      else if (key === ']') bench.set({ brush: { ...bench.brush, radius: Math.min(50, bench.brush.radius * 1.25) } });
      else if (key === 'x') bench.set({ view: bench.view === 'mask' ? 'lit' : 'mask' });
      else if (key === 'h' && kind?.notHidden) site.say(kind.notHidden);
      else if (key === 'h' && site.selected && plan)
        site.commit(`${plan.visible ? 'hide' : 'show'} ${plan.name}`, [
          { key: site.selected, plan: { ...plan, visible: !plan.visible } },
        ]);
      else if (
        ['delete', 'backspace', 'enter', '-', '='].includes(key) &&
        (bench.picked || bench.drawing || bench.armed)
      )
        window.dispatchEvent(new CustomEvent('cenote-key', { detail: key }));
      else if ((key === 'delete' || key === 'backspace') && site.selected && kind?.remove) kind.remove(site.selected);
      else if ((key === 'delete' || key === 'backspace') && site.selected && plan && !kind?.single)
        site.commit(`delete ${plan.name}`, [{ key: site.selected, plan: null }]);
      else if (key === 'w' && !event.repeat) window.dispatchEvent(new CustomEvent('cenote-key', { detail: 'w' }));
      else if (['f', 'd', ',', '.'].includes(key)) window.dispatchEvent(new CustomEvent('cenote-key', { detail: key }));
    };
    const up = (event: KeyboardEvent) => {
      if (event.key.toLowerCase() === 'w') window.dispatchEvent(new CustomEvent('cenote-key', { detail: 'w up' }));
    };
    window.addEventListener('keydown', down);
    window.addEventListener('keyup', up);
    return () => {
      window.removeEventListener('keydown', down);
      window.removeEventListener('keyup', up);
    };
  }, []);
}
