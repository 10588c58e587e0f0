import type { Manifest, PlanOf } from '../../api/client';
import { unpack, type Packet } from '../../api/packet';
import { fetchPart } from '../../api/parts';
import { constants } from '../../plate/formulas.gen';
import type { PlateContext } from '../../plate/PlateContext';
import type { PlatePart, Plans } from '../../plate/PlatePart';

/** Sun, sky and haze. */
export class LightPart implements PlatePart {
  private wanted = '';
  private shown = '';
  private light?: PlanOf<'light'>;
  private weather?: PlanOf<'weather'>;

  constructor(private plate: PlateContext) {}

  async sync(manifest: Manifest, plans: Plans) {
    this.takePlan(plans.light as PlanOf<'light'> | undefined);
    this.wanted = manifest.sky;
    if (manifest.sky === this.shown) return;
    const packet = unpack(await fetchPart(manifest.sky));
    // An answer that was overtaken is none.
    if (this.wanted !== manifest.sky) return;
    this.shown = manifest.sky;
    this.take(packet);
  }

  /** What the plate does with the light by itself, and with the weather in it. */
  takePlan(light = this.light, weather = this.weather) {
    this.light = light;
    this.weather = weather;
    const { frames, stage, eye } = this.plate;
    const exposure = 2 ** ((light?.exposure ?? 0) + (weather?.exposure ?? 0));
    // Three's exponential-squared fog stands in for the proof's exponential haze at the distances of a site.
    const fog = (constants.HAZE * (light?.haze ?? 0) ** 2 + constants.FOG * (weather?.fog ?? 0) ** 2) * 0.9;
    if (exposure !== eye.renderer.toneMappingExposure || fog !== stage.fog.density) frames.redraw();
    eye.renderer.toneMappingExposure = exposure;
    stage.fog.density = fog;
  }

  take(packet: Packet) {
    this.plate.stage.takeSky(packet);
    this.plate.frames.applyView();
    this.plate.frames.contentChanged();
  }

  dispose() {}
}
