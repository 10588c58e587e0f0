import { sentence, type Manifest, type PlanOf } from '../../api/client';
import type { PlateScene } from '../../plate/PlateScene';
import { setWind } from '../../plate/windShader';
import { DriftsPart } from '../drift/part';
import { LightPart } from '../light/part';
import { FallingPart } from './FallingPart';
import { HitsPart } from './HitsPart';
import { PoolsPart } from './PoolsPart';
import { SnowPart } from './SnowPart';

/** Wind bends at once what is drawn, and what has fallen only looks at surfaces otherwise: nothing is worked out anew. */
export function takeWeather(plate: PlateScene, plan: PlanOf<'weather'>, time?: number) {
  setWind(plan, time);
  plate.part(LightPart).takePlan(undefined, plan);
  plate.surfaces.takeFallen(plan).catch((error) => plate.host.say(sentence(error)));
  plate.part(SnowPart).takeDepth(plan);
  plate.part(PoolsPart).takeStanding(plan);
  plate.part(FallingPart).take(plan, plate.frames.seen, time);
  plate.part(HitsPart).take(plan, time);
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
  await plate.part(DriftsPart).lookAnew();
  store.dropUnnamed();
  plate.frames.arrangeWanted = true;
  plate.frames.redraw();
}
