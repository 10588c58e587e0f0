import { useQuery } from '@tanstack/react-query';
import { Navigate, Route, Routes } from 'react-router';
import { api, setToken } from './api/client';
import { lazy, Suspense } from 'react';
import { Fallback } from './screens/Fallback';
import { SignIn } from './screens/SignIn';
import { Sites } from './screens/Sites';

/** The bench and all that draws in 3D comes when a site is opened, not with the sign-in page. */
const Bench = lazy(() => import('./bench/Bench').then((module) => ({ default: module.Bench })));

export function App() {
  const me = useQuery({
    queryKey: ['me'],
    queryFn: async () => {
      const { data } = await api.GET('/api/accounts/me');
      setToken(data?.csrf ?? '');
      return data ?? null;
    },
  });
  if (me.isPending) return null;
  if (!me.data?.person) return <SignIn />;
  return (
    <Fallback of="This page">
      <Suspense fallback={null}>
        <Routes>
          <Route path="/" element={<Sites person={me.data.person} />} />
          <Route path="/sites/:id" element={<Bench person={me.data.person} />} />
          <Route path="*" element={<Navigate to="/" replace />} />
        </Routes>
      </Suspense>
    </Fallback>
  );
}
