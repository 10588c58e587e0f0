import { Box, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import { ink, mono } from '../theme';

/** A part of a sheet that is folded away until it is wanted; its remark says what is set in it. */
export function Fold({
  title,
  remark,
  open,
  children,
}: {
  title: string;
  remark: string;
  open?: boolean;
  children: ReactNode;
}) {
  return (
    <Box
      component="details"
      open={open}
      sx={{
        mb: 1.25,
        '& > summary': {
          cursor: 'pointer',
          display: 'flex',
          alignItems: 'baseline',
          borderBottom: `1px solid ${ink.ink}`,
          mb: 0.5,
          listStyle: 'none',
        },
        '& > summary::before': { content: '"+"', width: 14, fontFamily: mono, color: ink.water },
        '&[open] > summary::before': { content: '"–"' },
      }}
    >
      <summary aria-label={title}>
        <Typography variant="h3" component="span" sx={{ flex: 1 }}>
          {title}
        </Typography>
        <Typography component="span" sx={{ fontFamily: mono, fontSize: 11, color: 'text.secondary' }}>
          {remark}
        </Typography>
      </summary>
      {children}
    </Box>
  );
}
