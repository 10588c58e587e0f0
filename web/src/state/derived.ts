import { useQuery, type QueryClient } from '@tanstack/react-query';
import { api, given, type Effect, type Manifest } from '../api/client';
import { useMemo } from 'react';
import { OWN } from '../api/tufts';
import { useBench } from './bench';
import { useSite } from './site';

const sceneOf = async (id: string) =>
  given(await api.GET('/api/sites/{site_id}/scene', { params: { path: { site_id: id } } })) as unknown as Manifest;
const assetsOf = async (id: string) => given(await api.GET('/api/kit/assets', { params: { query: { site: id } } }));

let ahead: { id: string; scene: Promise<Manifest | null> } | null = null;

/** While a site's items are still on their way, what draws it is asked for already. */
export function askAhead(queries: QueryClient, id: string) {
  ahead = { id, scene: sceneOf(id).catch(() => null) };
  void queries.prefetchQuery({ queryKey: ['assets', id], queryFn: () => assetsOf(id), staleTime: Infinity });
}

/** Addresses of everything the plate draws, asked for again after every saved change. */
export function useManifest() {
  const id = useSite((s) => s.id);
  const revision = useSite((s) => s.revision);
  return useQuery({
    queryKey: ['scene', id, revision],
    enabled: Boolean(id),
    placeholderData: (before) => before,
    queryFn: async () => {
      const early = ahead?.id === id ? await ahead.scene : null;
      ahead = null;
      return early?.revision === revision ? early : sceneOf(id);
    },
  });
}

/** How much each drift and patina brings about, and why not where it is nothing. */
export function useEffects() {
  const id = useSite((s) => s.id);
  const revision = useSite((s) => s.revision);
  const ready = useBench((s) => s.ready);
  const query = useQuery({
    queryKey: ['effects', id, revision],
    enabled: Boolean(id) && ready,
    placeholderData: (before) => before,
    queryFn: async () => given(await api.GET('/api/sites/{site_id}/effects', { params: { path: { site_id: id } } })),
  });
  return Object.fromEntries(((query.data ?? []) as unknown as Effect[]).map((e) => [e.key, e]));
}

/** Everything that can be placed or scattered on this site. */
export function useAssets() {
  const id = useSite((s) => s.id);
  const query = useQuery({
    queryKey: ['assets', id],
    enabled: Boolean(id),
    staleTime: Infinity,
    queryFn: () => assetsOf(id),
  });
  const own = useManifest().data?.own;
  // Grasses of the site change with it: they are as the manifest has them.
  return useMemo(() => (query.data ?? []).filter((a) => !a.id.startsWith(OWN)).concat(own ?? []), [query.data, own]);
}

function useJobsQuery() {
  const id = useSite((s) => s.id);
  return useQuery({
    queryKey: ['jobs', id],
    enabled: Boolean(id),
    refetchInterval: (q) => (q.state.data?.some((j) => j.state === 'running' || j.state === 'waiting') ? 700 : 8000),
    queryFn: async () => given(await api.GET('/api/work/sites/{site_id}/jobs', { params: { path: { site_id: id } } })),
  });
}

export const useJobs = () => useJobsQuery().data ?? [];

/** Bytes that the site's proofs and hand-overs take, and how many they may; asked anew with each that is made or deleted. */
export function useRoom() {
  const id = useSite((s) => s.id);
  const ended = useJobs().filter((job) => job.finished).length;
  return useQuery({
    queryKey: ['room', id, ended],
    enabled: Boolean(id),
    queryFn: async () => given(await api.GET('/api/work/sites/{site_id}/room', { params: { path: { site_id: id } } })),
  }).data;
}

/** Is the server out of reach? Told by what is asked for all the time. */
export const useLost = () => useJobsQuery().failureCount > 0;
