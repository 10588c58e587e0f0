import { useEffect, useMemo, useRef, useState } from 'react';
import { fetchBytes, sentence, writeHeaders, type ItemPlan, type Manifest, type PlanOf } from '../../api/client';
import { unpack } from '../../api/packet';
import { kindOf } from '../../kinds';
import { useBench } from '../../state/bench';
import { useAssets, useLost, useManifest } from '../../state/derived';
import { useSite, type Item } from '../../state/site';
import type { PlateScene } from '../../plate/PlateScene';

/** Items by their keys, as plans. */
export const plansOf = (items: Record<string, Item>) =>
  Object.fromEntries(Object.values(items).map(({ key, plan }) => [key, plan]));

/** Status of a part that the site is shown without from now on. */
const GONE = 409;
/** What takes longer than this is said, milliseconds. */
const LONG = 400;

/** Keeps the picture in step with the site: saved states by their manifest, drafts by previews. */
export function usePlateContent(scene: PlateScene | null): boolean {
  const asked = useManifest();
  const manifest = asked.data;
  const assets = useAssets();
  const selected = useSite((s) => s.selected);
  const light = useSite((s) => (s.drafts.light ?? s.items.light?.plan) as PlanOf<'light'> | undefined);
  const view = useBench((s) => s.view);
  const part = useBench((s) => s.maskOf);
  const [ready, setReady] = useState(false);
  const stall = useStalls();
  const { failureCount, failureReason, refetch } = asked;
  // The server was away and is back: what did not come meanwhile is asked for again.
  const lost = useLost();
  const wasLost = useRef(false);
  useEffect(() => {
    if (wasLost.current && !lost) stall.again();
    wasLost.current = lost;
  }, [stall, lost]);
  useEffect(() => {
    if (failureCount > 1) stall.say(failureReason, () => void refetch());
    else stall.over();
  }, [stall, failureCount, failureReason, refetch]);

  useEffect(() => {
    if (!scene || !manifest || !assets.length || !light) return;
    let stale = false;
    const busy = window.setTimeout(() => useBench.getState().set({ arriving: true }), LONG);
    scene.setAssets(assets);
    scene
      .sync(manifest, plansOf(useSite.getState().items))
      .then(() => scene.frames.drawnNext())
      .then(() => {
        if (stale) return;
        scene.eye.canvas.dataset.revision = String(manifest.revision);
        setReady(true);
        stall.over();
        useBench.getState().set({ ready: true });
      })
      .catch((error) => {
        if (stale) return;
        // Something was found not to be worked out: what is listed now is without it.
        if ((error as { status?: number }).status === GONE) void refetch();
        stall.tryAgain(error);
      })
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
  }, [scene, manifest, assets, stall.round]);

  useEffect(() => {
    const kind = kindOf(selected ? useSite.getState().items[selected]?.plan : undefined);
    scene?.frames.setView(view, kind?.kind === 'ground' ? part : selected);
    scene?.frames.setSubject(selected && kind?.alone ? selected : '');
  }, [scene, view, selected, ready, part]);

  useMasks(scene, ready ? manifest : null);

  usePreviews(scene, manifest);
  return ready;
}

/** Milliseconds after which what did not come is asked for again: longer each time, up to the last. */
const PAUSES = [3000, 6000, 12_000, 30_000];

/** When a part of the picture does not come: it is said why, and asked for again by itself or by hand. */
function useStalls() {
  const [round, setRound] = useState(0);
  const timer = useRef<number>(undefined);
  const fails = useRef(0);
  const handled = useMemo(() => {
    const stop = () => window.clearTimeout(timer.current);
    const again = () => {
      stop();
      setRound((n) => n + 1);
    };
    return {
      again,
      say: (error: unknown, retry: () => void) =>
        useBench.getState().set({ stalled: { why: sentence(error), again: retry } }),
      tryAgain: (error: unknown) => {
        stop();
        useBench.getState().set({ stalled: { why: sentence(error), again } });
        timer.current = window.setTimeout(again, PAUSES[Math.min(fails.current, PAUSES.length - 1)]);
        fails.current += 1;
      },
      over: () => {
        stop();
        fails.current = 0;
        if (useBench.getState().stalled) useBench.getState().set({ stalled: null });
      },
    };
  }, []);
  useEffect(() => handled.over, [handled]);
  return useMemo(() => ({ ...handled, round }), [handled, round]);
}

/** The mask of what is no patina: laid over the covers while it is looked at, which come back after that. */
function useMasks(scene: PlateScene | null, manifest: Manifest | null | undefined) {
  const selected = useSite((s) => s.selected);
  const wanted = useBench((s) => s.view === 'mask');
  const laid = useRef(false);
  useEffect(() => {
    const { items, say } = useSite.getState();
    const plan = selected ? items[selected]?.plan : undefined;
    const showMask = wanted ? kindOf(plan)?.showMask : undefined;
    if (!scene || !manifest || (!showMask && !laid.current)) return;
    let stale = false;
    laid.current = Boolean(showMask);
    scene
      .sync(manifest, plansOf(items))
      .then(() => (stale ? undefined : showMask?.(scene, selected!, plan!, manifest)))
      .catch((error) => say(sentence(error)));
    return () => {
      stale = true;
    };
  }, [scene, manifest, wanted, selected]);
}

/** While a slider or handle is dragged: ask for the newest state only, drop what was overtaken. */
function usePreviews(scene: PlateScene | null, manifest: Manifest | null | undefined) {
  const saved = useRef(manifest);
  useEffect(() => {
    saved.current = manifest;
  }, [manifest]);
  useEffect(() => {
    if (!scene) return;
    const asking = previews(scene);
    // Told by the store itself: the server is at work before the controls have been drawn again.
    return useSite.subscribe((now, before) => {
      if (now.drafts === before.drafts) return;
      asking(now.drafts);
      const givenUp = now.items === before.items && Object.keys(before.drafts).some((key) => !now.drafts[key]);
      if (givenUp && saved.current)
        scene.sync(saved.current, plansOf(now.items)).catch((error) => useSite.getState().say(sentence(error)));
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
    scene.frames.setDragging(keys.length > 0);
    const changed = keys.find((k) => drafts[k] !== undefined);
    waiting = null;
    if (!changed) return;
    const plan = drafts[changed];
    if (kindOf(plan)?.draft?.(scene, changed, plan) === false) return;
    waiting = { key: changed, plan };
    void next();
  };
}

async function show(scene: PlateScene, key: string, plan: ItemPlan) {
  const { id } = useSite.getState();
  const data = await fetchBytes(`/api/sites/${id}/preview`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json', ...writeHeaders() },
    body: JSON.stringify({ key, plan, eye: scene.eye.camera.position.toArray(), most: scene.machine.most }),
  });
  // Saved or given up in the meantime: the saved state is on its way and must not be drawn over.
  if (!useSite.getState().drafts[key]) return;
  await kindOf(plan)?.show?.(scene, key, plan, unpack(data));
}
