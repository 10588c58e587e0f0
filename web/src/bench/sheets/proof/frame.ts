import type { Box4 } from '../../../state/bench';

/** Pixels, smallest first. */
export const proofSizes = [
  [640, 400],
  [1280, 800],
  [1920, 1200],
  [2560, 1600],
] as const;
/** Pixels across the narrowest frame the server makes. */
export const LEAST_FRAME = 16;

/**
 * Where a picture lies in the plate, shares of the plate's width and height.
 *
 * A lens is as wide in both; so the picture reaches from side to side, and above and below as far as its own form says.
 */
export function pictureInPlate(plateWidth: number, plateHeight: number, width: number, height: number): Box4 {
  const tall = (height / width) * (plateWidth / Math.max(plateHeight, 1));
  return [0, 0.5 - tall / 2, 1, 0.5 + tall / 2];
}

const held = (value: number) => Math.min(1, Math.max(0, value));

/** Two places in the plate as a part of the picture, whichever was first; null where it is too narrow to be meant. */
export function frameOf(
  from: [number, number],
  to: [number, number],
  picture: Box4,
  width: number,
  height: number,
): Box4 | null {
  const [, top, , bottom] = picture;
  const x = [from[0], to[0]].map(held).sort((a, b) => a - b);
  const y = [from[1], to[1]].map((v) => held((v - top) / (bottom - top))).sort((a, b) => a - b);
  if ((x[1] - x[0]) * width < LEAST_FRAME + 1 || (y[1] - y[0]) * height < LEAST_FRAME + 1) return null;
  return [x[0], y[0], x[1], y[1]].map((v) => Number(v.toFixed(4))) as Box4;
}

/** A frame moved, or with `grow` made wider and taller at its right and lower side, and kept within the picture. */
export function nudged(frame: Box4, dx: number, dy: number, grow: boolean): Box4 {
  const [left, top, right, bottom] = frame;
  const least = 0.02;
  if (grow)
    return [
      left,
      top,
      Math.min(1, Math.max(left + least, right + dx)),
      Math.min(1, Math.max(top + least, bottom + dy)),
    ];
  const x = Math.min(1 - right, Math.max(-left, dx)),
    y = Math.min(1 - bottom, Math.max(-top, dy));
  return [left + x, top + y, right + x, bottom + y];
}
