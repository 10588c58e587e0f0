import * as THREE from 'three';
import { unpack, type Packet } from '../api/packet';
import { fetchPart } from '../api/parts';

export interface MaterialInfo {
  tile: number;
  metalness: number;
  porosity: number;
  sheds: number;
  /** A thin pane that is seen through. */
  window: boolean;
  depth: number;
  translucency: number;
  alpha: boolean;
  size: number;
  aspect: number;
  url: string;
  v: string;
}

export interface CutOut extends MaterialInfo {
  colour: THREE.Texture;
}

export interface Pictures extends CutOut {
  relief: THREE.Texture;
}

async function bitmap(url: string): Promise<ImageBitmap> {
  const blob = new Blob([await fetchPart(url)], { type: 'image/webp' });
  return createImageBitmap(blob, { premultiplyAlpha: 'none', colorSpaceConversion: 'none', imageOrientation: 'flipY' });
}

async function picture(url: string, srgb: boolean, anisotropy: number): Promise<THREE.Texture> {
  const texture = new THREE.Texture(await bitmap(url));
  texture.flipY = false;
  texture.wrapS = texture.wrapT = THREE.RepeatWrapping;
  texture.colorSpace = srgb ? THREE.SRGBColorSpace : THREE.NoColorSpace;
  texture.anisotropy = anisotropy;
  texture.needsUpdate = true;
  return texture;
}

/** How pictures are fetched and laid up. */
export interface Store {
  /** Most texels along a side. */
  side: number;
  /** Until `sharpen`. */
  first: number;
  /** Of what is looked at closely. */
  near: number;
  /** Samples where a surface is seen at a slant. */
  anisotropy: number;
  /** What to do with a picture as soon as it has come. */
  lay: (texture: THREE.Texture) => void;
}

/** All finishes in use, as two array textures. */
export interface Finishes {
  ids: string[];
  colour: THREE.DataArrayTexture;
  relief: THREE.DataArrayTexture;
}

/** Most texels along a side of a finish: all of them lie in one array. */
const FINISH = 512;

/** So many materials are shown with all their texels: 2048 a side, with relief and mipmaps, take 45 MB each. */
const MOST_NEAR = 6;

/** Pictures of materials, fetched once. */
export class MaterialStore {
  private kept = new Map<string, Promise<THREE.Texture>>();
  private finishes: Finishes | null = null;
  private replaced: Finishes[] = [];
  private finishTiles = new Map<string, number>();
  private infos: Record<string, MaterialInfo> = {};
  private side: number;
  /** What came with fewer texels than it should have: how to fetch it in full. */
  private coarse = new Set<() => Promise<void>>();

  constructor(private how: Store) {
    this.side = how.first;
  }

  setInfos(infos: Record<string, MaterialInfo>) {
    this.infos = infos;
  }

  /** Colour and relief, for surfaces. */
  async get(id: string): Promise<Pictures> {
    const [colour, relief] = await Promise.all([this.picture(id, 'colour'), this.picture(id, 'relief')]);
    return { ...this.info(id), colour, relief };
  }

  /** Colour and cut-out alone, for leaves and decals. */
  async cutOut(id: string): Promise<CutOut> {
    return { ...this.info(id), colour: await this.picture(id, 'colour') };
  }

  info(id: string): MaterialInfo {
    const info = this.infos[id];
    if (!info) throw { detail: `The material '${id}' is no longer there. Choose another one.` };
    return info;
  }

  /** Where a material's pictures lie now; leaves have others for each half month. */
  address(id: string): string {
    const info = this.infos[id];
    return info ? `${info.url}?${info.v}` : id;
  }

  private async picture(id: string, which: 'colour' | 'relief'): Promise<THREE.Texture> {
    const info = this.info(id),
      { side } = this;
    const address = `${info.url}/${which}.webp?v=${info.v}`;
    const sized = (texels: number) => address + (texels < info.size ? `&side=${texels}` : '');
    let found = this.kept.get(address);
    if (!found) {
      found = picture(sized(side), which === 'colour', this.how.anisotropy);
      found.then(
        (texture) => {
          this.how.lay(texture);
          if (side < Math.min(info.size, this.how.side))
            this.coarse.add(async () => {
              const image = await bitmap(sized(this.how.side));
              if (this.kept.get(address) === found) this.replace(texture, image);
            });
        },
        () => this.kept.delete(address),
      );
      this.kept.set(address, found);
    }
    return found;
  }

  private replace(texture: THREE.Texture, image: unknown) {
    // Its room on the card has the old size.
    texture.dispose();
    texture.image = image;
    texture.needsUpdate = true;
    this.how.lay(texture);
  }

  /** From now on all pictures in full; those that are there already follow, if there are any. */
  sharpen(): Promise<unknown> | null {
    this.side = this.how.side;
    const all = [...this.coarse];
    return all.length
      ? Promise.all(all.map((fetchFull) => fetchFull().then(() => this.coarse.delete(fetchFull))))
      : null;
  }

  /** Materials that are looked at closely, the last ones last. */
  private near: string[] = [];

  /**
   * Show what is looked at closely with as many texels as there are, and give those back that were not looked at for
   * longest: no more than `MOST_NEAR` materials hold so many. Tells whether anything has changed.
   */
  async sharpenNear(ids: string[]): Promise<boolean> {
    const { side, near } = this.how;
    const fine = ids.filter((id) => this.infos[id] && this.info(id).size > side).slice(0, MOST_NEAR);
    const known = new Set(this.near);
    this.near = [...this.near.filter((id) => !fine.includes(id)), ...fine];
    const gone = this.near.splice(0, Math.max(0, this.near.length - MOST_NEAR));
    const fresh = fine.filter((id) => !known.has(id));
    const changed = await Promise.all([
      ...fresh.map((id) => this.resize(id, near)),
      ...gone.map((id) => this.resize(id, side)),
    ]);
    return changed.some(Boolean);
  }

  /** Materials shown with all their texels just now. */
  get nearNow(): readonly string[] {
    return this.near;
  }

  private async resize(id: string, side: number): Promise<boolean> {
    const info = this.infos[id];
    if (!info) return false;
    const done = await Promise.all(
      (['colour', 'relief'] as const).map(async (which) => {
        const address = `${info.url}/${which}.webp?v=${info.v}`;
        const found = this.kept.get(address);
        if (!found) return false;
        const image = await bitmap(address + (side < info.size ? `&side=${side}` : ''));
        const texture = await found;
        if (this.kept.get(address) !== found) return false;
        this.replace(texture, image);
        return true;
      }),
    );
    return done.some(Boolean);
  }

  private raw = new Map<string, Promise<Packet>>();

  private rawOf(id: string, side: number): Promise<Packet> {
    const { url, v } = this.info(id);
    const address = `${url}/raw?v=${v}&side=${side}`;
    let found = this.raw.get(address);
    if (!found) {
      found = fetchPart(address).then(unpack);
      found.catch(() => this.raw.delete(address));
      this.raw.set(address, found);
    }
    return found;
  }

  /** All finish materials in use, as two array textures of one size. */
  async finishArrays(ids: string[]): Promise<Finishes> {
    const side = Math.min(this.side, FINISH),
      full = Math.min(this.how.side, FINISH);
    await Promise.all(ids.map((id) => this.rawOf(id, side)));
    // Asked for by many surfaces at once: whoever comes after the first finds what it made.
    const have = this.finishes;
    if (have && ids.every((id) => have.ids.includes(id))) return have;
    const all = [...new Set([...(have?.ids ?? []), ...ids])].sort();
    const packets = await Promise.all(all.map((id) => this.rawOf(id, side)));
    const now = this.finishes;
    if (now && now !== have && all.every((id) => now.ids.includes(id))) return now;
    packets.forEach((packet, k) => this.finishTiles.set(all[k], packet.info.tile as number));
    const made = {
      ids: all,
      colour: finishArray(packets, 'colour', side),
      relief: finishArray(packets, 'relief', side),
    };
    this.how.lay(made.colour);
    this.how.lay(made.relief);
    if (side < full)
      this.coarse.add(async () => {
        const sharp = await Promise.all(all.map((id) => this.rawOf(id, full)));
        for (const name of ['colour', 'relief'] as const)
          this.replace(made[name], finishArray(sharp, name, full).image);
      });
    if (this.finishes) this.replaced.push(this.finishes);
    return (this.finishes = made);
  }

  /** Are there arrays of finishes that newer ones have replaced? */
  get outdated(): boolean {
    return this.replaced.length > 0;
  }

  /** Give replaced arrays back, once no surface reads them any more. */
  dropOutdated() {
    for (const { colour, relief } of this.replaced) {
      colour.dispose();
      relief.dispose();
    }
    this.replaced = [];
  }

  /** Give back the pictures that no material of the site names now: those of other half months, most of all. */
  dropUnnamed() {
    const named = new Set(
      Object.values(this.infos).flatMap((info) =>
        ['colour', 'relief'].map((which) => `${info.url}/${which}.webp?v=${info.v}`),
      ),
    );
    for (const [address, found] of this.kept)
      if (!named.has(address)) {
        this.kept.delete(address);
        void found.then(
          (texture) => texture.dispose(),
          () => undefined,
        );
      }
  }

  dispose() {
    this.infos = {};
    this.dropUnnamed();
    if (this.finishes) this.replaced.push(this.finishes);
    this.finishes = null;
    this.dropOutdated();
    this.coarse.clear();
  }

  finishTile(id: string): number {
    return Math.max(this.finishTiles.get(id) ?? 1, 0.05);
  }
}

function finishArray(packets: Packet[], name: 'colour' | 'relief', side: number): THREE.DataArrayTexture {
  const data = new Uint8Array(side * side * 4 * packets.length);
  packets.forEach((packet, k) => data.set(packet.arrays[name] as Uint8Array, k * side * side * 4));
  const texture = new THREE.DataArrayTexture(data, side, side, packets.length);
  texture.format = THREE.RGBAFormat;
  texture.colorSpace = name === 'colour' ? THREE.SRGBColorSpace : THREE.NoColorSpace;
  texture.wrapS = texture.wrapT = THREE.RepeatWrapping;
  texture.minFilter = THREE.LinearMipmapLinearFilter;
  texture.magFilter = THREE.LinearFilter;
  texture.generateMipmaps = true;
  texture.needsUpdate = true;
  return texture;
}
