import { Box, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import { ink, mono } from '../theme';

/** A part of a sheet: a heading over a rule, with a short remark at its right. */
export function Section({ title, remark, children }: { title: string; remark?: ReactNode; children: ReactNode }) {
  return (
    <Box component="section" aria-label={title} sx={{ mt: 1.5, mb: 1.5 }}>
      <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 1.5, borderBottom: `1px solid ${ink.ink}`, mb: 0.5 }}>
        <Typography variant="h3" sx={{ flexShrink: 0, maxWidth: '70%' }}>
          {title}
        </Typography>
        <Typography
          component="div"
          sx={{ fontFamily: mono, fontSize: 11, color: 'text.secondary', flex: 1, textAlign: 'right' }}
        >
          {remark}
        </Typography>
      </Box>
      {children}
    </Box>
  );
}
