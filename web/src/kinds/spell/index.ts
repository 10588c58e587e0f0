import { fresh } from '../../api/defaults';
import { freeName, top } from '../../state/fresh';
import { kindView } from '../kind';
import { Mark } from './Gauge';
import { Offer } from './Offer';
import { SpellSheet } from './SpellSheet';
import { stateOf, weatherOf } from './spells';

export default kindView<'spell'>({
  kind: 'spell',
  step: { name: 'Water', key: '6' },
  sheet: SpellSheet,
  offer: Offer,
  fresh: (items) =>
    fresh('spell', {
      name: freeName(items, 'new spell'),
      order: top(items, 'spell'),
      ...stateOf(weatherOf(items)),
    }),
  mark: Mark,
  order: (a, b) => a.order - b.order || a.name.localeCompare(b.name),
  notHidden: 'A spell is not hidden: another one is shown in its place, by a click in the top bar.',
});
