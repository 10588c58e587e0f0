import { create } from 'zustand';
import type { PlateScene } from '../plate/PlateScene';

/** The plate's scene, for what stands outside the plate and asks it something. */
export const usePlateScene = create<{ scene: PlateScene | null }>(() => ({ scene: null }));
