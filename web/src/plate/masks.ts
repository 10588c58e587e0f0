import type { PlanOf } from '../api/client';
import { unpack } from '../api/packet';
import { fetchPart } from '../api/parts';
import type { PlateScene } from './PlateScene';

/** Show where an item that is no patina may be, as if it were the cover of one. */
export async function showAsCover(plate: PlateScene, url: string | undefined, key: string, as: PlanOf<'patina'>) {
  if (url) await plate.surfaces.takeCoverPreview(unpack(await fetchPart(url)), { [key]: as });
}
