import { readFileSync } from 'node:fs';

/** Figures the core wrote for these tests; see server/server_tests/test_web_parts.py. */
interface Figures {
  plot: {
    point: number[];
    placed: number[][];
    assets: number[];
    identities: string[];
    tints: number[][];
    low: [number, number, number];
    high: [number, number, number];
  };
  gates: {
    gate: { rise_start: number; rise_end: number; fall_start: number; fall_end: number };
    values: number[];
    response: number[];
  }[];
  ground: { triangles: number[][] };
}

const folder = process.env.CENOTE_FIGURES;
if (!folder)
  throw new Error(
    'Run these by bin/test server_tests.test_web_parts, which has the core write the figures they are held to.',
  );

export const figures = JSON.parse(readFileSync(`${folder}/figures.json`, 'utf8')) as Figures;

export function bytes(name: string): ArrayBuffer {
  const data = readFileSync(`${folder}/${name}`);
  return data.buffer.slice(data.byteOffset, data.byteOffset + data.byteLength) as ArrayBuffer;
}
