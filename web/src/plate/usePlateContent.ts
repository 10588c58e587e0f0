import { useEffect, useState } from 'react';
import { fetchBytes, sentence, writeHeaders, type ItemPlan, type Manifest, type PlanOf } from '../api/client';
import { unpack, type Packet } from '../api/packet';
import { useBench } from '../state/bench';
import { useAssets, useManifest } from '../state/derived';
import { itemsOf, useSite } from '../state/site';
import type { PlateScene } from './PlateScene';

const byKey = <P>(list: { key: string; plan: P }[]) => Object.fromEntries(list.map((i) => [i.key, i.plan]));

/** What takes longer than this is said, milliseconds. */
const LONG = 400;

/** What can be changed while all else in the picture stays as it is. */
const CHANGES_ALONE = ['drift', 'patina', 'decal', 'piece', 'grass'];

/** Keeps the picture in step with the site: saved states by their manifest, drafts by previews. */
export function usePlateContent(scene: PlateScene | null): boolean {
  const manifest = useManifest().data;
  const assets = useAssets();
  const selected = useSite((s) => s.selected);
  const light = useSite((s) => (s.drafts.light ?? s.items.light?.plan) as PlanOf<'light'> | undefined);
  const view = useBench((s) => s.view);
  const [ready, setReady] = useState(false);

  useEffect(() => {
    if (!scene || !manifest || !assets.length || !light) return;
    let stale = false;
    const busy = window.setTimeout(() => useBench.getState().set({ arriving: true }), LONG);
    scene.setAssets(assets);
    const { items } = useSite.getState();
    scene
      .sync(
        manifest,
        items.light.plan as PlanOf<'light'>,
        byKey(itemsOf(items, 'piece')),
        byKey(itemsOf(items, 'patina')),
        byKey(itemsOf(items, 'drift')),
      )
      .then(() => scene.drawnNext())
      .then(() => {
        if (stale) return;
        setReady(true);
        useBench.getState().set({ ready: true });
      })
      .catch((error) => useSite.getState().say(sentence(error)))
      .finally(() => {
        window.clearTimeout(busy);
        if (!stale) useBench.getState().set({ arriving: false });
      });
    return () => {
      stale = true;
      window.clearTimeout(busy);
    };
    // Light is read when the manifest arrives; its drafts are handled below.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [scene, manifest, assets]);

  useEffect(() => {
    const kind = selected ? useSite.getState().items[selected]?.plan.kind : undefined;
    scene?.setView(view, kind === 'patina' ? selected : null);
    scene?.setSubject(selected && kind && CHANGES_ALONE.includes(kind) ? selected : '');
  }, [scene, view, selected, ready]);

  usePreviews(scene);
  return ready;
}

/** While a slider or handle is dragged: ask for the newest state only, drop what was overtaken. */
function usePreviews(scene: PlateScene | null) {
  useEffect(() => {
    if (!scene) return;
    const asking = previews(scene);
    // Told by the store itself: the server is at work before the controls have been drawn again.
    return useSite.subscribe((now, before) => {
      if (now.drafts !== before.drafts) asking(now.drafts);
    });
  }, [scene]);
}

function previews(scene: PlateScene) {
  let busy = false;
  let waiting: { key: string; plan: ItemPlan } | null = null;
  const next = async () => {
    const job = waiting;
    if (busy || !job) return;
    busy = true;
    waiting = null;
    const started = performance.now();
    try {
      await show(scene, job.key, job.plan);
      document.body.dataset.preview = String(Math.round(performance.now() - started));
    } catch (error) {
      useSite.getState().say(sentence(error));
    }
    busy = false;
    void next();
  };
  return (drafts: Record<string, ItemPlan>) => {
    const keys = Object.keys(drafts);
    scene.setDragging(keys.length > 0);
    const changed = keys.find((k) => drafts[k] !== undefined);
    waiting = null;
    if (!changed) return;
    const plan = drafts[changed];
    if (plan.kind === 'piece') return scene.placePiece(changed, plan);
    if (plan.kind === 'station') return scene.lookFrom(plan);
    if (plan.kind === 'weather') scene.takeWeather(plan);
    waiting = { key: changed, plan };
    void next();
  };
}

async function show(scene: PlateScene, key: string, plan: ItemPlan) {
  const { id, items } = useSite.getState();
  const data = await fetchBytes(`/api/sites/${id}/preview`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json', ...writeHeaders() },
    body: JSON.stringify({ key, plan, eye: scene.camera.position.toArray(), most: scene.software ? 40_000 : 120_000 }),
  });
  // Saved or given up in the meantime: the saved state is on its way and must not be drawn over.
  if (!useSite.getState().drafts[key]) return;
  const packet = unpack(data);
  if (plan.kind === 'touch' || plan.kind === 'placed' || plan.kind === 'line' || plan.kind === 'edit')
    return showHand(scene, plan.target, packet);
  if (plan.kind === 'weather') return scene.takeSeason(packet.info.materials as Manifest['materials']);
  if (plan.kind === 'ground' && packet.info.patinas)
    return scene.takeCoverPreview(packet, byKey(itemsOf(items, 'patina')));
  if (plan.kind === 'grass') return scene.takeGrass(key, packet);
  if (plan.kind === 'drift') await scene.takeDrift(key, packet, plan.tier);
  else if (plan.kind === 'patina')
    await scene.takeCoverPreview(packet, { ...byKey(itemsOf(items, 'patina')), [key]: plan });
  else if (plan.kind === 'decal') await scene.takeDecal(key, packet, plan.picture, plan.tint);
  else if (plan.kind === 'ground') await showGround(scene, packet);
  else if (plan.kind === 'light') {
    scene.takeSky(packet);
    scene.renderer.toneMappingExposure = 2 ** plan.exposure;
  }
}

/** A hand edit shows on what it is made on: a drift, a patina, a surface of the ground, or the ground itself. */
async function showHand(scene: PlateScene, target: string, packet: Packet) {
  const { items } = useSite.getState();
  const plan = items[target]?.plan;
  if (plan?.kind === 'drift') await scene.takeDrift(target, packet, plan.tier);
  else if (target === 'ground') await showGround(scene, packet);
  else await scene.takeCoverPreview(packet, byKey(itemsOf(items, 'patina')));
}

async function showGround(scene: PlateScene, packet: Packet) {
  scene.takeMesh('ground', packet);
  scene.takeLifts(
    (packet.info.lifts ?? {}) as Record<string, number>,
    byKey(itemsOf(useSite.getState().items, 'piece')),
  );
  await scene.dressOwner('ground');
}
