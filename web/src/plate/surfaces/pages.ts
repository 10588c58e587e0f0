import * as THREE from 'three';
import { sentence } from '../../api/client';
import { unpack } from '../../api/packet';
import { fetchPart } from '../../api/parts';
import { setPage, type CoverPage, type SurfaceMaterial } from '../materials';
import type { PlateContext } from '../PlateContext';
import { coverTexture, near, type OwnerView } from './owners';

/** So many owners have a page at a time: ten layers of 1024 a side take 10 MB. */
const MOST = 6;
/** Metres: pages of the ground have their middles on steps of this, so many before the eye. */
const STEP = 2,
  BEFORE = 2;

/** A page as it is held: of which covers it is, and where it lies. */
interface Held {
  name: string;
  of: string;
  page: CoverPage | null;
}

/** Finer covers of what the eye rests before; what is previewed has none until it is saved. */
export class CoverPages {
  private held = new Map<string, Held>();

  constructor(
    private plate: PlateContext,
    private owners: ReadonlyMap<string, OwnerView>,
  ) {}

  /** The page an owner's surfaces are drawn with now. */
  of(key: string): CoverPage | null {
    const held = this.held.get(key);
    return held && held.of === this.owners.get(key)?.coverShown ? held.page : null;
  }

  /** Owners that are drawn with a page now. */
  get shown(): string[] {
    return [...this.held.keys()].filter((key) => this.of(key));
  }

  /** Fetch what is near and not there yet. Tells whether anything has changed. */
  async fetchNear(): Promise<boolean> {
    const { eye } = this.plate;
    const wanted = near(this.owners, eye.frustum(), eye.camera.position)
      .filter(({ owner }) => owner.coverShown.startsWith('/'))
      .slice(0, MOST);
    const fetched = await Promise.all(wanted.map(({ key, owner }) => this.fetch(key, owner)));
    for (const key of [...this.held.keys()])
      if (this.held.size > MOST && !wanted.some((one) => one.key === key)) this.drop(key);
    return fetched.some(Boolean);
  }

  private async fetch(key: string, owner: OwnerView): Promise<boolean> {
    const { coverShown } = owner;
    const name = key === 'ground' ? `ground/${this.middle().join('/')}` : key;
    const there = this.held.get(key);
    if (there?.name === name && there.of === coverShown) return false;
    const packet = await this.ask(name, coverShown);
    if (!packet || owner.coverShown !== coverShown) return false;
    this.drop(key);
    const page = packet.arrays.covers ? pageOf(packet) : null;
    this.held.set(key, { name, of: coverShown, page });
    this.lay(key);
    return page !== null;
  }

  /** A page from the server; nothing, and said, where it does not come: the coarser covers stay. */
  private async ask(name: string, covers: string) {
    const { host } = this.plate;
    try {
      // The address of its covers tells one state of the site from another.
      return unpack(
        await fetchPart(`/api/sites/${host.site().id}/derived/page/${name}?of=${encodeURIComponent(covers)}`),
      );
    } catch (error) {
      host.say(sentence(error));
      return null;
    }
  }

  /** Whole metres x, z of the middle of a page of the ground for the eye as it is. */
  private middle(): [number, number] {
    const { camera } = this.plate.eye;
    const at = camera.getWorldDirection(new THREE.Vector3()).multiplyScalar(BEFORE).add(camera.position);
    return [Math.round(at.x / STEP) * STEP, Math.round(at.z / STEP) * STEP];
  }

  /** Give an owner's surfaces the page they are to be drawn with. */
  lay(key: string) {
    const materials = this.owners.get(key)?.mesh?.userData.materials as SurfaceMaterial[] | undefined;
    materials?.forEach((material) => setPage(material, this.of(key)));
  }

  private drop(key: string) {
    this.held.get(key)?.page?.covers.dispose();
    this.held.delete(key);
    this.lay(key);
  }

  dispose() {
    for (const { page } of this.held.values()) page?.covers.dispose();
    this.held.clear();
  }
}

function pageOf(packet: ReturnType<typeof unpack>): CoverPage {
  const covers = coverTexture(packet.arrays.covers as Uint8Array, packet.shapes.covers);
  return { covers, low: packet.info.low as [number, number], high: packet.info.high as [number, number] };
}
