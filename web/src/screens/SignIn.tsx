import { Box, Button, TextField, Typography } from '@mui/material';
import { useQueryClient } from '@tanstack/react-query';
import { useState, type FormEvent } from 'react';
import { api, sentence } from '../api/client';
import { Mark } from '../bench/Mark';
import { ink } from '../theme';

export function SignIn() {
  const [name, setName] = useState('');
  const [password, setPassword] = useState('');
  const [trouble, setTrouble] = useState('');
  const queries = useQueryClient();

  const submit = async (event: FormEvent) => {
    event.preventDefault();
    try {
      const { data, error } = await api.POST('/api/accounts/sign-in', { body: { name, password } });
      if (!data) return setTrouble(sentence(error));
      await queries.invalidateQueries({ queryKey: ['me'] });
    } catch (error) {
      setTrouble(sentence(error));
    }
  };

  return (
    <Box sx={{ minHeight: '100vh', display: 'grid', gridTemplateColumns: '1fr 420px', bgcolor: ink.paper }}>
      <Contours />
      <Box
        component="form"
        onSubmit={submit}
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
        <TextField
          label="Name"
          size="small"
          value={name}
          onChange={(e) => setName(e.target.value)}
          autoFocus
          autoComplete="username"
        />
        <TextField
          label="Password"
          size="small"
          type="password"
          value={password}
          onChange={(e) => setPassword(e.target.value)}
          autoComplete="current-password"
        />
        {trouble && (
          <Typography role="alert" color="error">
            {trouble}
          </Typography>
        )}
        <Button type="submit" variant="contained" disabled={!name || !password} sx={{ py: 1 }}>
          Sign in
        </Button>
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
