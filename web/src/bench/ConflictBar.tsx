import { Box, Button, Typography } from '@mui/material';
import { useEffect } from 'react';
import { useShallow } from 'zustand/react/shallow';
import { useSite } from '../state/site';
import { ink } from '../theme';

/** What has to be said across the bottom: trouble, a note on what was done, or two versions to choose from. */
export function ConflictBar() {
  const { conflict, settle, trouble, notice, clearTrouble } = useSite(
    useShallow((s) => ({
      conflict: s.conflict,
      settle: s.settle,
      trouble: s.trouble,
      notice: s.notice,
      clearTrouble: s.clearTrouble,
    })),
  );
  useEffect(() => {
    if (!notice) return;
    // A busy page may let time run out for a note that has just been followed by another.
    const timer = window.setTimeout(() => useSite.getState().notice === notice && clearTrouble(), 4000);
    return () => window.clearTimeout(timer);
  }, [notice, clearTrouble]);
  if (!conflict && !trouble && !notice) return null;
  const tone = conflict ? ink.ochrePale : trouble ? '#F4DDD8' : ink.panel;
  return (
    <Box
      role={trouble || conflict ? 'alert' : 'status'}
      sx={{
        position: 'fixed',
        bottom: 12,
        left: 500,
        maxWidth: 720,
        zIndex: 20,
        bgcolor: tone,
        border: `1px solid ${conflict ? ink.ochre : trouble ? ink.brick : ink.line}`,
        px: 1.5,
        py: 0.75,
        display: 'flex',
        alignItems: 'center',
        gap: 1,
      }}
    >
      {conflict ? (
        <>
          <Typography>
            Somebody changed ‘{conflict.theirs[0]?.plan.name}’ while you did. Both versions are kept in the history.
          </Typography>
          <Button variant="contained" onClick={() => settle('mine')}>
            Take mine
          </Button>
          <Button variant="outlined" onClick={() => settle('theirs')}>
            Keep theirs
          </Button>
        </>
      ) : (
        <>
          <Typography>{trouble || notice}</Typography>
          <Button color="inherit" aria-label="Close message" onClick={clearTrouble}>
            ×
          </Button>
        </>
      )}
    </Box>
  );
}
