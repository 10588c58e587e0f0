import { DriftsPart } from '../drift/part';
import { kindView } from '../kind';
import { GrassSheet } from './GrassSheet';
import { removeGrass } from './ownGrass';

export default kindView<'grass'>({
  kind: 'grass',
  sheet: GrassSheet,
  remove: removeGrass,
  notHidden: 'A grass is hidden with the drifts it grows in.',
  alone: true,
  show: (plate, key, _, packet) => plate.part(DriftsPart).takeGrass(key, packet),
});
