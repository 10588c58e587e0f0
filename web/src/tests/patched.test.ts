import * as THREE from 'three';
import { describe, expect, test } from 'vitest';
import { clearMaterial } from '../plate/clear';
import { patched } from '../plate/patched';
import { waterMaterial } from '../plate/water';

describe('parts of shaders that are replaced', () => {
  test('each first one is, word for word', () => {
    expect(patched('a b a', ['a', '$&x'], ['b', 'c'])).toBe('$&x c a');
  });

  test('what is not there is told', () => {
    expect(() => patched('void main() {}', ['#include <map_fragment>', ''])).toThrow('#include <map_fragment>');
  });

  test('the shaders of the library have all that ours replace', () => {
    const sky = { value: null },
      number = { value: 0 };
    const made = [
      waterMaterial({ sky, rain: number, time: number } as never),
      clearMaterial({ sky: sky as never }, 1.3, 0),
    ];
    for (const material of made) {
      const { vertexShader, fragmentShader } = THREE.ShaderLib.basic;
      const program = { uniforms: {}, vertexShader, fragmentShader };
      material.onBeforeCompile(program as never, null as never);
      expect(program.vertexShader).not.toBe(vertexShader);
      expect(program.fragmentShader).not.toBe(fragmentShader);
    }
  });
});
