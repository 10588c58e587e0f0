import { Button, Dialog, DialogContent, Typography } from '@mui/material';
import { useQueryClient } from '@tanstack/react-query';
import { useCallback, useEffect, useState } from 'react';
import { renewToken } from '../api/client';
import { useSession } from '../api/session';
import { SignInForm } from '../ui/SignInForm';
import { useSite } from '../state/site';
import { ink } from '../theme';

/** So often it is looked whether another page has been signed in with, milliseconds. */
const LOOK_EVERY = 4000;

/** The sign-in has ended while the site is open: what was done is kept here, and goes out after signing in on the spot. */
export function SignInAgain() {
  const { ended, user, set } = useSession();
  const [open, setOpen] = useState(true);
  const queries = useQueryClient();
  const goOn = useCallback(
    async (name: string) => {
      // What is kept here belongs to whoever made it: somebody else opens the site for themselves.
      if (name !== user) return window.location.reload();
      set({ ended: false });
      setOpen(true);
      useSite.getState().goOn();
      await queries.invalidateQueries();
      // Small pictures that were refused meanwhile.
      for (const image of document.images) if (image.complete && !image.naturalWidth) image.src = String(image.src);
    },
    [queries, set, user],
  );
  useSignedInElsewhere(
    ended,
    useCallback(() => void goOn(user), [goOn, user]),
  );
  if (!ended) return null;

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

/** Somebody who signs in again in another page of theirs need not do it here too. */
function useSignedInElsewhere(ended: boolean, then: () => void) {
  useEffect(() => {
    if (!ended) return;
    const look = () =>
      void renewToken().then(
        (here) => here && then(),
        () => undefined,
      );
    const timer = window.setInterval(look, LOOK_EVERY);
    window.addEventListener('focus', look);
    return () => {
      window.clearInterval(timer);
      window.removeEventListener('focus', look);
    };
  }, [ended, then]);
}
