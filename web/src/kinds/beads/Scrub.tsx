import { Box, Button, Slider, Typography } from '@mui/material';
import { useCallback, useEffect, useRef, useState } from 'react';
import { mono } from '../../theme';

interface Props {
  /** Seconds that drops have run for. */
  value: number;
  onDraft: (seconds: number) => void;
  onCommit: (seconds: number) => void;
}

/** Seconds the bar reaches to, and from one picture to the next while it plays. */
const END = 20;
const STEP = 0.5;
/** Milliseconds between two pictures: each has to be worked out. */
const PAUSE = 900;

/** Time, to be dragged to and fro or let run: the same moment shows the same drops again. */
export function Scrub({ value, onDraft, onCommit }: Props) {
  const [at, setAt] = useState<number | null>(null);
  const [plays, setPlays] = useState(false);
  const latest = useRef({ value, onDraft, onCommit });
  useEffect(() => {
    latest.current = { value, onDraft, onCommit };
  });
  const keep = useCallback((seconds: number) => {
    setPlays(false);
    setAt(null);
    latest.current.onCommit(seconds);
  }, []);
  useEffect(() => {
    if (!plays) return;
    let now = latest.current.value >= END ? 0 : latest.current.value;
    const timer = setInterval(() => {
      now = Math.min(END, now + STEP);
      if (now >= END) return keep(now);
      setAt(now);
      latest.current.onDraft(now);
    }, PAUSE);
    // Gone with its sheet, it keeps nothing: what it belongs to may have been deleted.
    return () => clearInterval(timer);
  }, [plays, keep]);
  const shown = at ?? value;
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5, mb: 0.5 }}>
      <Button variant="outlined" onClick={() => (plays ? keep(shown) : setPlays(true))} sx={{ minWidth: 64 }}>
        {plays ? 'Stop' : 'Let run'}
      </Button>
      <Slider
        size="small"
        min={0}
        max={END}
        step={0.1}
        value={Math.min(shown, END)}
        aria-label="Moment of the run, s"
        onChange={(_, v) => {
          setAt(v);
          onDraft(v);
        }}
        onChangeCommitted={(_, v) => keep(v)}
      />
      <Typography sx={{ fontFamily: mono, fontSize: 11.5, width: 48, textAlign: 'right' }}>
        {shown.toFixed(1)} s
      </Typography>
    </Box>
  );
}
