import { useEffect, useState } from 'react';
import type { Schemas } from '../api/client';
import { usePlateScene } from '../state/plate';

export type Sight = Schemas['SightIn'];

/** So long the eye has to stay before what is in view is counted anew, milliseconds. */
const REST = 350;

/** From where the plate is seen, once the eye has come to rest; none while that is not asked for. */
export function useSight(wanted: boolean): Sight | null {
  const scene = usePlateScene((s) => s.scene);
  const [sight, setSight] = useState<Sight | null>(null);
  useEffect(() => {
    if (!wanted || !scene) return setSight(null);
    let timer = 0;
    const take = () => setSight(scene.eye.sight());
    const stop = scene.eye.watch(() => {
      window.clearTimeout(timer);
      timer = window.setTimeout(take, REST);
    });
    take();
    return () => {
      window.clearTimeout(timer);
      stop();
    };
  }, [wanted, scene]);
  return sight;
}
