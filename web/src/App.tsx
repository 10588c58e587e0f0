import { useQuery } from '@tanstack/react-query';
import { Navigate, Route, Routes } from 'react-router';
import { api, setToken } from './api/client';
import { Bench } from './bench/Bench';
import { SignIn } from './screens/SignIn';
import { Sites } from './screens/Sites';

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
    <Routes>
      <Route path="/" element={<Sites person={me.data.person} />} />
      <Route path="/sites/:id" element={<Bench person={me.data.person} />} />
      <Route path="*" element={<Navigate to="/" replace />} />
    </Routes>
  );
}
