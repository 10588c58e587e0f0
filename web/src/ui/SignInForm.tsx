import { Button, TextField, Typography } from '@mui/material';
import { useState, type FormEvent } from 'react';
import { api, renewToken, sentence, setToken, type Schemas } from '../api/client';

interface Props {
  /** The name to begin with. */
  user?: string;
  onSignedIn: (person: Schemas['Person']) => void;
}

/** Name and password. */
export function SignInForm({ user = '', onSignedIn }: Props) {
  const [name, setName] = useState(user);
  const [password, setPassword] = useState('');
  const [trouble, setTrouble] = useState('');

  const submit = async (event: FormEvent) => {
    event.preventDefault();
    try {
      // The page may have been open for longer than its token holds.
      await renewToken();
      const { data, error } = await api.POST('/api/accounts/sign-in', { body: { name, password } });
      if (!data) return setTrouble(sentence(error));
      setToken(data.csrf);
      onSignedIn(data);
    } catch (error) {
      setTrouble(sentence(error));
    }
  };

  return (
    <form onSubmit={submit} style={{ display: 'flex', flexDirection: 'column', gap: 16 }}>
      <TextField
        label="Name"
        size="small"
        value={name}
        onChange={(e) => setName(e.target.value)}
        autoFocus={!user}
        autoComplete="username"
      />
      <TextField
        label="Password"
        size="small"
        type="password"
        value={password}
        onChange={(e) => setPassword(e.target.value)}
        // The form is all there is, on a page or in a dialog: whoever opens it is here to type.
        // eslint-disable-next-line jsx-a11y-x/no-autofocus
        autoFocus={Boolean(user)}
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
    </form>
  );
}
