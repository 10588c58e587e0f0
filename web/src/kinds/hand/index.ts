import type { Packet } from '../../api/packet';
import type { PlateScene } from '../../plate/PlateScene';
import { useSite } from '../../state/site';
import { showBeads } from '../beads/show';
import { showGround } from '../ground/show';
import { DriftsPart } from '../drift/part';
import { kindView } from '../kind';
import { handKinds } from '../../state/hand';

/** A hand edit shows on what it is made on: a drift, a patina, a surface of the ground, or the ground itself. */
async function show(plate: PlateScene, _: string, { target }: { target: string }, packet: Packet) {
  const plan = useSite.getState().items[target]?.plan;
  if (plan?.kind === 'drift') await plate.part(DriftsPart).take(target, packet, plan.tier);
  else if (target === 'ground') await showGround(plate, packet);
  // Snow that was trodden comes anew with the saved state.
  else if (target === 'weather') return;
  else if (plan?.kind === 'beads') showBeads(plate, target, packet);
  else await plate.surfaces.takeCoverPreview(packet);
}

export default handKinds.map((kind) => kindView({ kind, show }));
