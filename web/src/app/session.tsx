import { useQuery, useQueryClient } from '@tanstack/react-query';
import { createContext, type ReactNode, useContext, useEffect } from 'react';
import { api, Problem, type Session } from '../api/client';
import { SignIn } from '../screens/SignIn';

type Signed = NonNullable<Session['person']>;

const Current = createContext<Signed | null>(null);

const ORDER = ['requester', 'agent', 'builder', 'publisher', 'administrator'];

/** Asks who is signed in; shows the way in when nobody is. */
export function SessionGate({ children }: { children: ReactNode }) {
  const client = useQueryClient();
  const query = useQuery({ queryKey: ['session'], queryFn: api.session, staleTime: Number.POSITIVE_INFINITY });
  useEffect(() => {
    const out = () =>
      client.setQueryData(['session'], (old: Session | undefined) => (old ? { ...old, person: null } : old));
    window.addEventListener('sorvel:signed-out', out);
    return () => window.removeEventListener('sorvel:signed-out', out);
  }, [client]);
  if (query.isPending) return null;
  if (query.isError) {
    const problem = Problem.of(query.error);
    return (
      <main className="p-10">
        <h1>{problem.message}</h1>
        <p className="mt-2">{problem.detail}</p>
        <button type="button" className="btn mt-4" onClick={() => query.refetch()}>
          Try again
        </button>
      </main>
    );
  }
  const person = query.data.person;
  if (!person) return <SignIn onSignedIn={(session) => client.setQueryData(['session'], session)} />;
  return <Current value={person}>{children}</Current>;
}

export function usePerson(): Signed {
  const person = useContext(Current);
  if (!person) throw new Error('Nobody is signed in.');
  return person;
}

export function useMay(role: string): boolean {
  return ORDER.indexOf(usePerson().role) >= ORDER.indexOf(role);
}

export function useSignOut(): () => Promise<void> {
  const client = useQueryClient();
  return async () => {
    await api.signOut();
    client.clear();
    window.location.assign('/');
  };
}
