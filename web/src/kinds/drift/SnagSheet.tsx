import { Box, Button, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { api, given, type ItemPlan } from '../../api/client';
import { useBenchParts } from '../../state/bench';
import { useSite } from '../../state/site';
import { ink } from '../../theme';
import type { Offered } from '../kind';
import { Section } from '../../ui/Section';

/** What a viewer would notice on the drifts, marked in the plate, each with its cure. */
export function SnagSheet({ openItem }: Pick<Offered, 'openItem'>) {
  const id = useSite((s) => s.id);
  const revision = useSite((s) => s.revision);
  const items = useSite((s) => s.items);
  const commit = useSite((s) => s.commit);
  const { marked, set } = useBenchParts('marked', 'set');
  const [asked, setAsked] = useState(false);
  const query = useQuery({
    queryKey: ['snags', id, revision],
    enabled: Boolean(id) && asked,
    placeholderData: (before) => before,
    queryFn: async () => given(await api.GET('/api/sites/{site_id}/snags', { params: { path: { site_id: id } } })),
  });
  const list = asked ? query.data : undefined;
  return (
    <Section title="Snags" remark={list ? `${list.length}` : asked ? 'looking…' : ''}>
      {!asked && <Button onClick={() => setAsked(true)}>Look for snags</Button>}
      {list?.length === 0 && <Typography sx={{ fontSize: 12.5 }}>Nothing found that a viewer would notice.</Typography>}
      {list?.map((snag, k) => (
        <Box key={`${snag.item} ${snag.kind} ${k}`} sx={{ borderLeft: `3px solid ${ink.ochre}`, pl: 1, mb: 1 }}>
          <Typography sx={{ fontSize: 11, color: 'warning.main' }}>{snag.kind}</Typography>
          <Typography sx={{ fontSize: 12.5 }}>{snag.text}</Typography>
          <Box>
            {snag.places.length > 0 && (
              <Button
                onClick={() =>
                  set({ marked: marked === snag.places ? [] : (snag.places as [number, number, number][]) })
                }
              >
                Show where
              </Button>
            )}
            {items[snag.item] && (
              <Button
                color="inherit"
                onClick={() => {
                  openItem(snag.item);
                }}
              >
                Open it
              </Button>
            )}
            {snag.plan && (
              <Button
                variant="outlined"
                color="warning"
                onClick={() => {
                  set({ marked: [] });
                  commit(snag.cure, [{ key: snag.item, plan: snag.plan as ItemPlan }]);
                }}
              >
                {snag.cure.charAt(0).toUpperCase() + snag.cure.slice(1)}
              </Button>
            )}
          </Box>
        </Box>
      ))}
    </Section>
  );
}
