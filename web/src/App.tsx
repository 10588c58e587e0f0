import { useQuery } from '@tanstack/react-query';
import { Navigate, Route, Routes } from 'react-router';
import { api, given, setToken, type Schemas } from './api/client';
import { useSession } from './api/session';
import { lazy, Suspense, useState } from 'react';
import { Unreached } from './ui/Unreached';
import { Fallback } from './ui/Fallback';
import { SignIn } from './screens/SignIn';
import { Sites } from './screens/Sites';

/** The bench and all that draws in 3D comes when a site is opened, not with the sign-in page. */
const Bench = lazy(() => import('./bench/Bench').then((module) => ({ default: module.Bench })));

export function App() {
  const me = useQuery({
    queryKey: ['me'],
    queryFn: async () => {
      const data = given(await api.GET('/api/accounts/me'));
      setToken(data.csrf);
      const session = useSession.getState();
      // A page that was opened by somebody stays theirs: they are asked to sign in on the spot.
      if (!session.user && data.person) session.set({ user: data.person.user });
      else if (session.user && data.person?.user !== session.user) session.set({ ended: true });
      return data;
    },
  });
  // Who has been here stays here while their sign-in is renewed.
  const [person, setPerson] = useState<Schemas['Person'] | null>(null);
  const now = me.data?.person ?? null;
  if (now && !person) setPerson(now);
  if (!person && me.isPending) return me.failureCount ? <Unreached error={me.failureReason} /> : null;
  if (!person) return <SignIn />;
  return (
    <Fallback of="This page">
      <Suspense fallback={null}>
        <Routes>
          <Route path="/" element={<Sites person={person} />} />
          <Route path="/sites/:id" element={<Bench person={person} />} />
          <Route path="*" element={<Navigate to="/" replace />} />
        </Routes>
      </Suspense>
    </Fallback>
  );
}
