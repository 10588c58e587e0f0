import { Button, Dialog, DialogContent, Typography } from '@mui/material';
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useSession } from '../api/session';
import { SignInForm } from '../screens/SignInForm';
import { useSite } from '../state/site';
import { ink } from '../theme';

/** The sign-in has ended while the site is open: what was done is kept here, and goes out after signing in on the spot. */
export function SignInAgain() {
  const { ended, user, set } = useSession();
  const [open, setOpen] = useState(true);
  const queries = useQueryClient();
  if (!ended) return null;

  const goOn = async (name: string) => {
    // What is kept here belongs to whoever made it: somebody else opens the site for themselves.
    if (name !== user) return window.location.reload();
    set({ ended: false });
    setOpen(true);
    useSite.getState().goOn();
    await queries.invalidateQueries();
    // Small pictures that were refused meanwhile.
    for (const image of document.images) if (image.complete && !image.naturalWidth) image.src = String(image.src);
  };

  return (
    <>
      <Button
        variant="contained"
        onClick={() => setOpen(true)}
        sx={{ position: 'fixed', bottom: 12, left: 12, zIndex: 20, bgcolor: ink.brick }}
      >
        Signed out: sign in
      </Button>
      <Dialog open={open} onClose={() => setOpen(false)} aria-labelledby="sign-in-again">
        <DialogContent sx={{ width: 380 }}>
          <Typography variant="h2" id="sign-in-again" sx={{ mb: 1 }}>
            Your sign-in has ended
          </Typography>
          <Typography sx={{ mb: 2 }}>
            Everything you do is kept on this page and is saved as soon as you have signed in again.
          </Typography>
          <SignInForm user={user} onSignedIn={(person) => void goOn(person.user)} />
          <Button color="inherit" onClick={() => setOpen(false)} sx={{ mt: 1 }}>
            Later
          </Button>
        </DialogContent>
      </Dialog>
    </>
  );
}
