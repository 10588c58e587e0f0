import { Box, Button, Typography } from '@mui/material';
import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { useParams } from 'react-router';
import type { Schemas } from '../api/client';
import { Plate } from './view/Plate';
import { useBench } from '../state/bench';
import { askAhead } from '../state/derived';
import { useSite } from '../state/site';
import { Fallback } from '../ui/Fallback';
import { Unreached } from '../ui/Unreached';
import { ink } from '../theme';
import { ConflictBar } from './ConflictBar';
import { Course } from './Course';
import { ImportDialog } from './ImportDialog';
import { useKeys } from './keys';
import { useLastPicture } from './lastPicture';
import { Sheet } from './Sheet';
import { SignInAgain } from './SignInAgain';
import { TopBar } from './TopBar';

/** An empty site begins with the first step of the course. */
function beginAtTheGround() {
  const { items, select } = useSite.getState();
  if (Object.values(items).some(({ plan }) => plan.kind === 'piece' || plan.kind === 'drift')) return;
  useBench.getState().set({ step: 'Ground' });
  select('ground');
}

/** Milliseconds after which a site that could not be opened is asked for again. */
const OPENS_AGAIN = 4000;

/** The main screen: course, sheet, plate. */
export function Bench({ person }: { person: Schemas['Person'] }) {
  const { id } = useParams();
  const [state, setState] = useState<'loading' | 'here' | 'gone' | { error: unknown }>('loading');
  const [dropped, setDropped] = useState<File | null>(null);
  const sheetOpen = useBench((s) => s.sheetOpen);
  const selected = useSite((s) => s.selected);
  const load = useSite((s) => s.load);
  useKeys();
  useLastPicture();
  const queries = useQueryClient();
  const [tries, setTries] = useState(0);
  useEffect(() => {
    if (!id) return;
    askAhead(queries, id);
    let again: number | undefined;
    load(id)
      .then((found) => {
        if (found) beginAtTheGround();
        setState(found ? 'here' : 'gone');
      })
      .catch((error) => {
        setState({ error });
        again = window.setTimeout(() => setTries(tries + 1), OPENS_AGAIN);
      });
    return () => window.clearTimeout(again);
  }, [id, load, queries, tries]);

  if (state === 'loading')
    return (
      <Box sx={{ p: 4 }}>
        <Typography>Opening the site…</Typography>
      </Box>
    );
  if (typeof state === 'object')
    return (
      <>
        <Unreached error={state.error} again={() => setTries(tries + 1)} />
        <SignInAgain />
      </>
    );
  if (state === 'gone')
    return (
      <Box sx={{ p: 4 }}>
        <Typography variant="h1">This site is not here</Typography>
        <Typography sx={{ my: 1 }}>It was put away, or it is not shared with you.</Typography>
        <Button href="/" variant="outlined">
          All sites
        </Button>
      </Box>
    );
  return (
    <Box
      onDragOver={(e) => e.preventDefault()}
      onDrop={(e) => {
        e.preventDefault();
        if (e.dataTransfer.files[0]) setDropped(e.dataTransfer.files[0]);
      }}
      sx={{ height: '100vh', display: 'grid', gridTemplateRows: '44px 1fr', overflow: 'hidden' }}
    >
      <TopBar person={person} onImport={setDropped} />
      <Box sx={{ display: 'grid', gridTemplateColumns: sheetOpen ? '172px 316px 1fr' : '172px 0 1fr', minHeight: 0 }}>
        <Course />
        <Box
          component="aside"
          aria-label="Sheet"
          sx={{
            bgcolor: ink.panel,
            borderRight: `1px solid ${ink.line}`,
            overflowY: 'auto',
            overflowX: 'hidden',
            minHeight: 0,
          }}
        >
          {sheetOpen && (
            <Fallback of="This sheet" again={selected}>
              <Sheet />
            </Fallback>
          )}
        </Box>
        <Fallback of="The picture of the site">
          <Plate />
        </Fallback>
      </Box>
      <ConflictBar />
      <SignInAgain />
      <ImportDialog file={dropped} onClose={() => setDropped(null)} />
    </Box>
  );
}
