import { Box, Button, Dialog, DialogContent, Menu, MenuItem, Tooltip, Typography } from '@mui/material';
import { useQueryClient } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { Link } from 'react-router';
import { useShallow } from 'zustand/react/shallow';
import { api, once, sentence, type Schemas } from '../api/client';
import { SpellBar } from '../kinds/spell/SpellBar';
import { useSession } from '../api/session';
import { useSite } from '../state/site';
import { ink, mono, serif } from '../theme';
import { keyList } from './keys';
import { Mark } from './Mark';

export function TopBar({ person, onImport }: { person: Schemas['Person']; onImport: (file: File) => void }) {
  const site = useSite(
    useShallow(({ id, name, revision, saving, aside, savedAt, undo, redo, stepBack, stepForward, say }) => ({
      id,
      name,
      revision,
      saving,
      aside,
      savedAt,
      undo,
      redo,
      stepBack,
      stepForward,
      say,
    })),
  );
  const queries = useQueryClient();
  const chooser = useRef<HTMLInputElement>(null);
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [keys, setKeys] = useState(false);
  const saved = site.savedAt
    ? new Date(site.savedAt).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' })
    : '';
  const ended = useSession((s) => s.ended);
  const unsent = site.aside.length
    ? `${site.aside.length} not saved`
    : { saved: `saved ${saved}`, saving: 'saving…', waiting: 'not sent yet, trying again' }[site.saving];
  const sign = ended ? 'not saved: signed out' : unsent;

  const handOver = async () => {
    try {
      const path = { site_id: site.id };
      const { error } = await api.POST('/api/work/sites/{site_id}/handovers', { params: { path }, headers: once() });
      site.say(error ? sentence(error) : 'The hand-over is being written; follow it under Proofs.');
    } catch (error) {
      site.say(sentence(error));
    }
    await queries.invalidateQueries({ queryKey: ['jobs'] });
  };
  const signOut = async () => {
    await api.POST('/api/accounts/sign-out');
    window.location.assign('/');
  };

  return (
    <Box
      component="header"
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 1,
        px: 1.5,
        bgcolor: ink.paper,
        borderBottom: `1px solid ${ink.line}`,
      }}
    >
      <Tooltip title="All sites">
        <Link to="/" aria-label="All sites" style={{ display: 'flex' }}>
          <Mark />
        </Link>
      </Tooltip>
      <Typography component="h1" sx={{ fontFamily: serif, fontSize: 18, mx: 1, whiteSpace: 'nowrap' }}>
        {site.name}
      </Typography>
      <Typography
        role="status"
        aria-label="Saving"
        data-revision={site.revision}
        sx={{
          fontFamily: mono,
          fontSize: 11.5,
          whiteSpace: 'nowrap',
          color: ended || site.aside.length || site.saving === 'waiting' ? 'error.main' : 'text.secondary',
        }}
      >
        {sign}
      </Typography>
      <SpellBar />
      <Box sx={{ flex: 1 }} />
      <Tooltip title={site.undo ? `Take back: ${site.undo} (Ctrl Z)` : 'Nothing to undo'}>
        <span>
          <Button color="inherit" disabled={!site.undo} onClick={() => void site.stepBack()}>
            Undo
          </Button>
        </span>
      </Tooltip>
      <Tooltip title={site.redo ? `Do again: ${site.redo} (Ctrl Shift Z)` : 'Nothing to redo'}>
        <span>
          <Button color="inherit" disabled={!site.redo} onClick={() => void site.stepForward()}>
            Redo
          </Button>
        </span>
      </Tooltip>
      <Box sx={{ width: '1px', height: 20, bgcolor: ink.line, mx: 0.5 }} />
      <Tooltip title="Bring in a GLB, glTF, OBJ, PLY or STL, or a ZIP of one with its pictures. You can also drop it on the plate.">
        <Button color="inherit" onClick={() => chooser.current?.click()}>
          Bring in a model
        </Button>
      </Tooltip>
      <input
        ref={chooser}
        type="file"
        hidden
        aria-label="Model file"
        accept=".glb,.gltf,.obj,.ply,.stl,.zip"
        onChange={(e) => {
          if (e.target.files?.[0]) onImport(e.target.files[0]);
          e.target.value = '';
        }}
      />
      <Tooltip title="Write the scene as a GLB with instancing, and a table of every instance">
        <Button color="inherit" onClick={handOver}>
          Hand over
        </Button>
      </Tooltip>
      <Button color="inherit" aria-label="All keys" onClick={() => setKeys(true)}>
        ?
      </Button>
      <Button
        color="inherit"
        onClick={(e) => setMenu(e.currentTarget)}
        aria-label={`Signed in as ${person.name}`}
        sx={{ border: `1px solid ${ink.line}`, borderRadius: 4, fontFamily: mono }}
      >
        {person.initials}
      </Button>
      <Menu anchorEl={menu} open={Boolean(menu)} onClose={() => setMenu(null)}>
        <MenuItem disabled>{person.name}</MenuItem>
        <MenuItem onClick={signOut}>Sign out</MenuItem>
      </Menu>
      <Dialog open={keys} onClose={() => setKeys(false)}>
        <DialogContent>
          <Typography variant="h2" sx={{ mb: 1 }}>
            Keys
          </Typography>
          {keyList.map(([key, what]) => (
            <Box key={key} sx={{ display: 'grid', gridTemplateColumns: '110px 1fr', py: 0.25 }}>
              <Typography sx={{ fontFamily: mono }}>{key}</Typography>
              <Typography>{what}</Typography>
            </Box>
          ))}
        </DialogContent>
      </Dialog>
    </Box>
  );
}
