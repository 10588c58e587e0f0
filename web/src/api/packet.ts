/** Arrays as the server packs them; see core/cenote_core/formats/packet.py. */

export type PacketArray = Float32Array | Int32Array | Uint32Array | Uint16Array | Uint8Array;

export interface Packet {
  arrays: Record<string, PacketArray>;
  shapes: Record<string, number[]>;
  info: Record<string, unknown>;
}

const types = { float32: Float32Array, int32: Int32Array, uint32: Uint32Array, uint16: Uint16Array, uint8: Uint8Array };

export function unpack(data: ArrayBuffer): Packet {
  const length = new DataView(data).getUint32(0, true);
  const header = JSON.parse(new TextDecoder().decode(new Uint8Array(data, 4, length)));
  const arrays: Record<string, PacketArray> = {};
  const shapes: Record<string, number[]> = {};
  for (const [name, entry] of Object.entries<{ type: keyof typeof types; shape: number[]; offset: number }>(
    header.arrays,
  )) {
    const count = entry.shape.reduce((a, b) => a * b, 1);
    arrays[name] = new types[entry.type](data, 4 + length + entry.offset, count);
    shapes[name] = entry.shape;
  }
  return { arrays, shapes, info: header.info };
}
