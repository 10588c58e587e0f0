import type { Manifest } from '../../api/client';
import { unpack } from '../../api/packet';
import { fetchPart } from '../../api/parts';
import type { PlateContext } from '../../plate/PlateContext';
import type { PlatePart } from '../../plate/PlatePart';
import { takeRoofs } from '../../plate/roofs';

/** Under what nothing falls. */
export class RoofsPart implements PlatePart {
  readonly upon = true;
  private wanted = '';
  private shown = '';

  constructor(private plate: PlateContext) {}

  async sync({ roofs }: Manifest) {
    this.wanted = roofs;
    if (roofs === this.shown) return;
    const packet = roofs ? unpack(await fetchPart(roofs)) : null;
    // An answer that was overtaken is none.
    if (this.wanted !== roofs) return;
    this.shown = roofs;
    const { low, high } = (packet?.info ?? {}) as { low: number[]; high: number[] };
    takeRoofs(packet && { values: packet.arrays.tops as Float32Array, shape: packet.shapes.tops, low, high });
    this.plate.frames.contentChanged();
  }

  dispose() {
    takeRoofs(null);
  }
}
