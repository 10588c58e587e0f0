import { beforeEach, expect, test, vi } from 'vitest';
import { fetchPart } from '../api/parts';
import { takeWorn, type Worn } from '../kinds/drift/worn';

vi.mock('../api/parts', () => ({ fetchPart: vi.fn() }));
vi.mock('../api/packet', () => ({ unpack: (data: Float32Array) => ({ arrays: { color: data } }) }));

const fetched = vi.mocked(fetchPart);
let drift: Worn;
const levels = { birch: ['/a?v=1', '/b?v=1'] };

beforeEach(() => {
  drift = { worn: new Map(), wornAt: '{}' };
  fetched.mockReset();
  fetched.mockImplementation(async (url) => new Float32Array(url.startsWith('/a') ? 8 : 4) as unknown as ArrayBuffer);
});

test('colours are taken once for each address', async () => {
  expect(await takeWorn(drift, levels)).toBe(true);
  expect([...drift.worn].map(([name, colours]) => [name, colours.count])).toEqual([
    ['birch/0', 2],
    ['birch/1', 1],
  ]);
  expect(await takeWorn(drift, levels)).toBe(false);
  expect(fetched).toHaveBeenCalledTimes(2);
});

test('none are taken off again', async () => {
  await takeWorn(drift, levels);
  expect(await takeWorn(drift, {})).toBe(true);
  expect(drift.worn.size).toBe(0);
});

test('an answer that was overtaken is none', async () => {
  const first = takeWorn(drift, levels);
  const second = takeWorn(drift, { birch: ['/b?v=2'] });
  expect(await first).toBe(false);
  expect(await second).toBe(true);
  expect(drift.worn.size).toBe(1);
});

test('what a lost connection kept back is asked for again', async () => {
  fetched.mockRejectedValueOnce(new Error('lost'));
  await expect(takeWorn(drift, levels)).rejects.toThrow('lost');
  expect(await takeWorn(drift, levels)).toBe(true);
});
