import { usePlateScene } from '../../state/plate';

/** Where the middle of the view is: what the eye turns about, metres. */
export function usePlateMiddle(): () => [number, number, number] {
  const scene = usePlateScene((s) => s.scene);
  return () => (scene?.eye.sight().target ?? [0, 0, 0]) as [number, number, number];
}
