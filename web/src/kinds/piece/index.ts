import { KitSheet } from '../../bench/sheets/KitSheet';
import { kindView } from '../kind';
import { handles } from './handles';
import { PieceSheet } from './PieceSheet';

export default kindView<'piece'>({
  kind: 'piece',
  step: { name: 'Pieces', key: '2' },
  sheet: PieceSheet,
  offer: KitSheet,
  swatch: (plan) => ({ asset: plan.asset }),
  alone: true,
  group: (plan) => plan.group,
  handles,
  draft: (plate, key, plan) => {
    plate.owners.placePiece(key, plan);
    return false;
  },
});
