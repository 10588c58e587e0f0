import { KitSheet } from '../../ui/KitSheet';
import { kindView } from '../kind';
import { handles } from './handles';
import { PieceSheet } from './PieceSheet';
import { setDown } from './setDown';

export default kindView<'piece'>({
  kind: 'piece',
  step: { name: 'Pieces', key: '2' },
  sheet: PieceSheet,
  offer: KitSheet,
  swatch: (plan) => ({ asset: plan.asset }),
  alone: true,
  group: (plan) => plan.group,
  handles,
  setDown,
  draft: (plate, key, plan) => {
    plate.surfaces.placePiece(key, plan);
    return false;
  },
});
