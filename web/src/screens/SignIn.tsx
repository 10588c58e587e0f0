import { Box, Typography } from '@mui/material';
import { useQueryClient } from '@tanstack/react-query';
import { Mark } from '../bench/Mark';
import { ink } from '../theme';
import { SignInForm } from '../ui/SignInForm';

export function SignIn() {
  const queries = useQueryClient();

  return (
    <Box sx={{ minHeight: '100vh', display: 'grid', gridTemplateColumns: '1fr 420px', bgcolor: ink.paper }}>
      <Contours />
      <Box
        sx={{
          bgcolor: ink.panel,
          borderLeft: `1px solid ${ink.line}`,
          p: 6,
          display: 'flex',
          flexDirection: 'column',
          justifyContent: 'center',
          gap: 2,
        }}
      >
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5, mb: 1 }}>
          <Mark size={34} />
          <Typography variant="h1">Cenote</Typography>
        </Box>
        <Typography color="text.secondary" sx={{ mb: 2 }}>
          Dress a bare exterior until it looks as if it has stood there for years.
        </Typography>
        <SignInForm onSignedIn={() => void queries.invalidateQueries({ queryKey: ['me'] })} />
      </Box>
    </Box>
  );
}

/** Contour lines around a sinkhole, drawn from a formula. */
function Contours() {
  const lines = Array.from({ length: 26 }, (_, k) => {
    const base = 40 + k * 26;
    const points = Array.from({ length: 121 }, (_, i) => {
      const a = (i / 120) * Math.PI * 2;
      const r =
        base *
        (1 + 0.1 * Math.sin(3 * a + k * 0.16) + 0.06 * Math.sin(5 * a - k * 0.21) + 0.03 * Math.sin(9 * a + k * 0.4));
      return `${(430 + r * Math.cos(a) * 1.25).toFixed(1)},${(420 + r * Math.sin(a)).toFixed(1)}`;
    });
    return (
      <polygon
        key={k}
        points={points.join(' ')}
        fill={k === 0 ? ink.water : 'none'}
        fillOpacity={k === 0 ? 0.85 : 0}
        stroke={k < 4 ? ink.water : '#b9b2a1'}
        strokeWidth={k % 5 === 0 ? 1.4 : 0.7}
      />
    );
  });
  return (
    <svg viewBox="0 0 860 840" preserveAspectRatio="xMidYMid slice" width="100%" height="100%" role="presentation">
      {lines}
    </svg>
  );
}
