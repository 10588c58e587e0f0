import { useEffect } from 'react';
import { fresh } from '../../api/defaults';
import { useBench } from '../../state/bench';
import { usePlan } from '../../state/site';
import { takeWeather } from '../../kinds/weather/part';
import type { PlateScene } from '../../plate/PlateScene';

/** Keeps the wind in step with the weather; while it is let blow, draws picture after picture at a calm rate. */
export function useWind(scene: PlateScene | null) {
  const weather = usePlan('weather', 'weather');
  const moves = useBench((s) => s.windMoves);
  useEffect(() => {
    const plan = weather ?? fresh('weather', {});
    if (scene) takeWeather(scene, plan);
    if (!scene || !moves) return;
    const started = performance.now() - plan.moment * 1000;
    let stop = false;
    const step = () => {
      if (stop) return;
      takeWeather(scene, plan, (performance.now() - started) / 1000);
      // A machine that draws in software gets the pictures it can make, and keeps time for everything else.
      window.setTimeout(() => requestAnimationFrame(step), scene.machine.windPause);
    };
    step();
    return () => {
      stop = true;
    };
  }, [scene, weather, moves]);
}
