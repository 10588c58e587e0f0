import { fetchBytes, type Asset } from '../api/client';
import { unpack } from '../api/packet';

/** An asset's triangles as seen from the side, of a middling level of detail. */
interface Flat {
  position: Float32Array;
  index: Uint32Array;
}

const kept = new Map<string, Promise<Flat>>();

function coarse(asset: Asset): Promise<Flat> {
  const url = asset.lods[Math.min(1, asset.lods.length - 1)];
  let found = kept.get(url);
  if (!found) {
    found = fetchBytes(url).then((data) => {
      const { arrays } = unpack(data);
      return { position: arrays.position as Float32Array, index: arrays.index as Uint32Array };
    });
    // What did not come is asked for again.
    found.catch(() => kept.delete(url));
    kept.set(url, found);
  }
  return found;
}

/**
 * Every triangle of a mesh as seen in the picture plane, all turned the same way round, since front and back of a
 * closed body would otherwise cancel each other out.
 */
function trace(
  path: CanvasRenderingContext2D | Path2D,
  index: ArrayLike<number>,
  x: (vertex: number) => number,
  y: (vertex: number) => number,
  stride = 1,
) {
  for (let k = 0; k + 2 < index.length; k += 3 * stride) {
    const ax = x(index[k]),
      ay = y(index[k]);
    const bx = x(index[k + 1]),
      by = y(index[k + 1]);
    const cx = x(index[k + 2]),
      cy = y(index[k + 2]);
    const turned = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay) < 0;
    path.moveTo(ax, ay);
    path.lineTo(turned ? cx : bx, turned ? cy : by);
    path.lineTo(turned ? bx : cx, turned ? by : cy);
    path.closePath();
  }
}

/** Fill the outline of a mesh. */
export function fillSilhouette(
  context: CanvasRenderingContext2D,
  index: ArrayLike<number>,
  x: (vertex: number) => number,
  y: (vertex: number) => number,
  stride = 1,
) {
  context.beginPath();
  trace(context, index, x, y, stride);
  context.fill();
}

export interface Outline {
  path: Path2D;
  width: number;
  height: number;
}

/** An asset's silhouette as a path in metres, foot at the origin, y up. */
export async function outlineOf(asset: Asset): Promise<Outline> {
  const { position, index } = await coarse(asset);
  const path = new Path2D();
  trace(
    path,
    index,
    (v) => position[v * 3],
    (v) => position[v * 3 + 1],
    Math.max(1, Math.ceil(index.length / 3 / 500)),
  );
  return { path, width: Math.max(asset.size[0], 0.02), height: asset.size[1] };
}

const pictures = new Map<string, Promise<string>>();

/** An asset's silhouette as the address of a picture, `metres` wide and high, foot in the middle of the lower edge. */
export function silhouettePicture(asset: Asset, pixels: number, metres: number): Promise<string> {
  const key = `${asset.lods[0]} ${pixels} ${metres}`;
  let found = pictures.get(key);
  if (!found) {
    found = drawPicture(asset, pixels, metres);
    found.catch(() => pictures.delete(key));
    pictures.set(key, found);
  }
  return found;
}

async function drawPicture(asset: Asset, pixels: number, metres: number): Promise<string> {
  const { position, index } = await coarse(asset);
  const canvas = document.createElement('canvas');
  canvas.width = canvas.height = pixels;
  const scale = pixels / metres;
  // Drawn without the graphics card: reading it back from there would wait for the plate.
  fillSilhouette(
    canvas.getContext('2d', { willReadFrequently: true })!,
    index,
    (v) => pixels / 2 + position[v * 3] * scale,
    (v) => pixels - 2 - position[v * 3 + 1] * scale,
  );
  return canvas.toDataURL();
}
