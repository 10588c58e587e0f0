import { sentence, type Manifest, type PlanOf } from '../../api/client';
import type { PlateScene } from '../../plate/PlateScene';
import { setWind } from '../../plate/windShader';
import { useSite } from '../../state/site';

/** Wind bends at once what is drawn, and what has fallen only looks at surfaces otherwise: nothing is worked out anew. */
export function takeWeather(plate: PlateScene, plan: PlanOf<'weather'>, time?: number) {
  setWind(plan, time);
  plate.light.takePlan(undefined, plan);
  plate.owners.takeFallen(plan).catch((error) => useSite.getState().say(sentence(error)));
  plate.snow.takeDepth(plan);
  plate.pools.takeStanding(plan);
  plate.falling.take(plan, plate.frames.seen, time);
  plate.hits.take(plan, time);
  plate.stage.mirrored.rain.value = plan.rain;
  plate.stage.mirrored.time.value = time ?? plan.moment;
  // Shadows go along; where each takes a second they wait until the wind is held.
  if (time === undefined || !plate.machine.software) plate.frames.shadowWanted = true;
  if (time === undefined) plate.frames.hurry();
  else plate.frames.redraw();
}

/** Leaves of another time of the year. */
export async function takeSeason(plate: PlateScene, materials: Manifest['materials']) {
  const { store } = plate.stage;
  store.setInfos(materials);
  await plate.drifts.lookAnew();
  store.dropUnnamed();
  plate.frames.arrangeWanted = true;
  plate.frames.redraw();
}
