import { Box, Button, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { api, given, type ItemPlan, type Schemas } from '../../api/client';
import { Section } from '../../ui/Section';
import { useSite } from '../../state/site';
import { figure, ink, mono } from '../../theme';

type Response = Schemas['ResponseOut'];

/** What responds to the weather that shows and how much; above it what does not, why, and what cures it. */
export function Responses() {
  const id = useSite((s) => s.id);
  const revision = useSite((s) => s.revision);
  const query = useQuery({
    queryKey: ['responses', id, revision],
    enabled: Boolean(id),
    placeholderData: (before) => before,
    queryFn: async () => given(await api.GET('/api/sites/{site_id}/responses', { params: { path: { site_id: id! } } })),
  });
  const found = (query.data ?? []) as Response[];
  if (!found.length) return null;
  const none = found.filter((one) => one.reason);
  return (
    <Section title="What responds" remark={none.length ? `${none.length} do not` : 'all of it'}>
      {[...new Set(found.map((one) => one.what))].map((what) => (
        <Kind key={what} what={what} found={found.filter((one) => one.what === what)} />
      ))}
    </Section>
  );
}

function Kind({ what, found }: { what: string; found: Response[] }) {
  const commit = useSite((s) => s.commit);
  return (
    <Box sx={{ mb: 1 }}>
      <Typography sx={{ fontSize: 12.5, fontStyle: 'italic' }}>{what}</Typography>
      {found.map((one) => (
        <Box key={one.item} sx={{ py: 0.25, borderBottom: `1px solid ${ink.line}` }}>
          <Box sx={{ display: 'flex', justifyContent: 'space-between', gap: 1, fontSize: 12.5 }}>
            <span>{one.name}</span>
            <Box component="span" sx={{ fontFamily: mono, color: one.reason ? ink.ochre : 'text.primary' }}>
              {said(one)}
            </Box>
          </Box>
          {one.reason && <Typography sx={{ fontSize: 11.5, color: 'text.secondary' }}>{one.reason}</Typography>}
          {one.plan && (
            <Button size="small" onClick={() => commit(one.cure, [{ key: one.item, plan: one.plan as ItemPlan }])}>
              {one.cure.charAt(0).toUpperCase() + one.cure.slice(1)}
            </Button>
          )}
        </Box>
      ))}
    </Box>
  );
}

const said = ({ amount, unit }: Response) =>
  unit ? `${figure(amount, amount < 10 ? 1 : 0)} ${unit}` : `${Math.round(amount * 100)} %`;
