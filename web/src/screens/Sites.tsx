import { Box, Button, TextField, Tooltip, Typography } from '@mui/material';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState, type FormEvent } from 'react';
import { Link, useNavigate } from 'react-router';
import { api, given, once, sentence, type Schemas } from '../api/client';
import { Mark } from '../bench/Mark';
import { ink, mono } from '../theme';

export function Sites({ person }: { person: Schemas['Person'] }) {
  const queries = useQueryClient();
  const go = useNavigate();
  const [name, setName] = useState('');
  const [gone, setGone] = useState<Schemas['SiteCard'] | null>(null);
  const [trouble, setTrouble] = useState('');
  const sites = useQuery({
    queryKey: ['sites'],
    queryFn: async () => given(await api.GET('/api/sites')),
    refetchOnMount: 'always',
  });
  const away = useQuery({
    queryKey: ['sites', 'put away'],
    queryFn: async () => given(await api.GET('/api/sites/put-away')),
    refetchOnMount: 'always',
  });
  const refresh = () => queries.invalidateQueries({ queryKey: ['sites'] });

  const create = async (event: FormEvent) => {
    event.preventDefault();
    try {
      const { data, error } = await api.POST('/api/sites', { body: { name: name.trim(), note: '' }, headers: once() });
      if (data) go(`/sites/${data.id}`);
      else setTrouble(sentence(error));
    } catch (error) {
      setTrouble(sentence(error));
    }
  };
  const remove = async (site: Schemas['SiteCard']) => {
    const { error } = await api.DELETE('/api/sites/{site_id}', { params: { path: { site_id: site.id } } });
    if (error) setTrouble(sentence(error));
    else setGone(site);
    await refresh();
  };
  const restore = async (site: Schemas['SiteCard']) => {
    const { error } = await api.POST('/api/sites/{site_id}/restore', { params: { path: { site_id: site.id } } });
    if (error) setTrouble(sentence(error));
    setGone(null);
    await refresh();
  };
  const signOut = async () => {
    await api.POST('/api/accounts/sign-out');
    queries.clear();
    window.location.assign('/');
  };

  return (
    <Box sx={{ minHeight: '100vh' }}>
      <Box
        component="header"
        sx={{
          height: 44,
          px: 2,
          display: 'flex',
          alignItems: 'center',
          gap: 1.5,
          borderBottom: `1px solid ${ink.line}`,
          bgcolor: ink.panel,
        }}
      >
        <Mark />
        <Typography variant="h2" component="h1">
          Sites
        </Typography>
        <Box sx={{ flex: 1 }} />
        <Typography>{person.name}</Typography>
        <Button onClick={signOut}>Sign out</Button>
      </Box>
      <Box component="main" sx={{ p: 4, maxWidth: 1240, mx: 'auto' }}>
        <Box component="form" onSubmit={create} sx={{ display: 'flex', gap: 1, mb: 3, alignItems: 'center' }}>
          <TextField
            size="small"
            label="Name of a new site"
            value={name}
            onChange={(e) => setName(e.target.value)}
            sx={{ width: 280 }}
          />
          <Button type="submit" variant="contained" disabled={!name.trim()} sx={{ py: 0.9 }}>
            New site
          </Button>
          {trouble && (
            <Typography role="alert" color="error">
              {trouble}
            </Typography>
          )}
          {gone && (
            <Box role="status" sx={{ display: 'flex', alignItems: 'center', gap: 1, ml: 2 }}>
              <Typography>‘{gone.name}’ was put away.</Typography>
              <Button variant="outlined" onClick={() => void restore(gone)}>
                Bring it back
              </Button>
            </Box>
          )}
        </Box>
        {sites.data?.length === 0 && (
          <Typography color="text.secondary">No site yet. Give the first one a name above.</Typography>
        )}
        <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(360px, 1fr))', gap: 3 }}>
          {sites.data?.map((site) => (
            <Card key={site.id} site={site} onRemove={() => remove(site)} />
          ))}
        </Box>
        {Boolean(away.data?.length) && (
          <Box component="section" aria-label="Put away" sx={{ mt: 5, borderTop: `1px solid ${ink.line}`, pt: 1.5 }}>
            <Typography variant="h3" sx={{ mb: 0.5 }}>
              Put away
            </Typography>
            <Typography sx={{ fontSize: 12, color: 'text.secondary', mb: 0.5 }}>
              Kept for 60 days after it was put away, then deleted for good.
            </Typography>
            {away.data?.map((site) => (
              <Box key={site.id} sx={{ display: 'flex', alignItems: 'baseline', gap: 2 }}>
                <Typography sx={{ minWidth: 220 }}>{site.name}</Typography>
                <Typography sx={{ fontFamily: mono, fontSize: 12, color: 'text.secondary' }}>{site.size}</Typography>
                <Button onClick={() => void restore(site)}>Bring back</Button>
              </Box>
            ))}
          </Box>
        )}
      </Box>
    </Box>
  );
}

/** A site as a drawing sheet: the last proof above, a title block below. */
function Card({ site, onRemove }: { site: Schemas['SiteCard']; onRemove: () => void }) {
  const cell = (label: string, value: string) => (
    <Box sx={{ px: 1, py: 0.5, borderLeft: `1px solid ${ink.line}`, '&:first-of-type': { borderLeft: 0 } }}>
      <Typography sx={{ fontSize: 10, color: 'text.secondary' }}>{label}</Typography>
      <Typography sx={{ fontFamily: mono, fontSize: 12 }}>{value}</Typography>
    </Box>
  );
  return (
    <Box component="article" aria-label={site.name} sx={{ bgcolor: ink.panel, border: `1px solid ${ink.ink}`, p: 1 }}>
      <Box sx={{ border: `1px solid ${ink.line}` }}>
        <Link to={`/sites/${site.id}`} aria-label={`Open ${site.name}`}>
          {site.proof || site.plate ? (
            <img
              src={site.proof ?? site.plate ?? ''}
              alt={site.proof ? `Last proof of ${site.name}` : `${site.name} as the plate showed it last`}
              style={{ display: 'block', width: '100%', aspectRatio: '16 / 10', objectFit: 'cover' }}
            />
          ) : (
            <Box
              sx={{
                aspectRatio: '16 / 10',
                display: 'grid',
                placeItems: 'center',
                color: 'text.secondary',
                background: `repeating-linear-gradient(45deg, ${ink.paper} 0 11px, ${ink.panel} 11px 22px)`,
              }}
            >
              <Typography sx={{ bgcolor: ink.panel, px: 1 }}>no picture yet</Typography>
            </Box>
          )}
        </Link>
        <Box sx={{ display: 'flex', alignItems: 'center', px: 1, py: 0.75, borderTop: `1px solid ${ink.line}` }}>
          <Typography
            variant="h2"
            component={Link}
            to={`/sites/${site.id}`}
            sx={{ flex: 1, color: 'inherit', textDecoration: 'none' }}
          >
            {site.name}
          </Typography>
          {site.role === 'owner' && (
            <Tooltip title="Put this site away. It can be brought back at once.">
              <Button color="inherit" onClick={onRemove}>
                Put away
              </Button>
            </Tooltip>
          )}
        </Box>
        <Box sx={{ display: 'grid', gridTemplateColumns: '1.2fr .7fr .7fr .8fr', borderTop: `1px solid ${ink.line}` }}>
          {cell('ground', site.size)}
          {cell('pieces', String(site.pieces))}
          {cell('drifts', String(site.drifts))}
          {cell('patinas', String(site.patinas))}
        </Box>
        <Box sx={{ display: 'grid', gridTemplateColumns: '1.2fr 2.2fr', borderTop: `1px solid ${ink.line}` }}>
          {cell(
            'last change',
            new Date(site.updated).toLocaleDateString('en-GB', { day: 'numeric', month: 'short', year: 'numeric' }),
          )}
          {cell('people', site.people.join(', '))}
        </Box>
      </Box>
    </Box>
  );
}
