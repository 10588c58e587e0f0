import { Box, Button, Typography } from '@mui/material';
import { useEffect } from 'react';
import { useShallow } from 'zustand/react/shallow';
import { useSite } from '../state/site';
import { ink } from '../theme';

/** What has to be said across the bottom: trouble, a note on what was done, or two versions to choose from. */
export function ConflictBar() {
  const { conflict, settle, others, settleOthers, trouble, notice, aside, settleAside, clearTrouble } = useSite(
    useShallow((s) => ({
      conflict: s.conflict,
      settle: s.settle,
      others: s.others,
      settleOthers: s.settleOthers,
      trouble: s.trouble,
      notice: s.notice,
      aside: s.aside,
      settleAside: s.settleAside,
      clearTrouble: s.clearTrouble,
    })),
  );
  useEffect(() => {
    if (!notice) return;
    // A busy page may let time run out for a note that has just been followed by another.
    const timer = window.setTimeout(() => useSite.getState().notice === notice && clearTrouble(), 4000);
    return () => window.clearTimeout(timer);
  }, [notice, clearTrouble]);
  if (!conflict && !others && !trouble && !notice && !aside.length) return null;
  const choice = conflict ?? others ?? (trouble || notice ? null : aside[0]);
  const tone = choice ? ink.ochrePale : trouble ? '#F4DDD8' : ink.panel;
  return (
    <Box
      role={trouble || choice ? 'alert' : 'status'}
      sx={{
        position: 'fixed',
        bottom: 12,
        left: 500,
        maxWidth: 720,
        zIndex: 20,
        bgcolor: tone,
        border: `1px solid ${choice ? ink.ochre : trouble ? ink.brick : ink.line}`,
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
            {conflict.theirs.length
              ? `Somebody changed ‘${conflict.theirs[0].plan.name}’ while you did. Both versions are kept in the history.`
              : 'What this was to change is no longer on the site. It is kept in the history.'}
          </Typography>
          <Button variant="contained" onClick={() => settle('mine')}>
            Take mine
          </Button>
          <Button variant="outlined" onClick={() => settle('theirs')}>
            Keep theirs
          </Button>
        </>
      ) : others ? (
        <>
          <Typography>{others.detail}</Typography>
          <Button variant="contained" onClick={() => void settleOthers(true)}>
            Take back {others.whose}’s step too
          </Button>
          <Button variant="outlined" onClick={() => void settleOthers(false)}>
            Leave both
          </Button>
        </>
      ) : aside.length && choice ? (
        <>
          <Typography>
            Not saved: {aside.map(({ label }) => `‘${label}’`).join(', ')}. {aside[0].reason}
          </Typography>
          <Button variant="contained" onClick={() => settleAside(true)}>
            Send again
          </Button>
          <Button variant="outlined" onClick={() => settleAside(false)}>
            Let go
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
