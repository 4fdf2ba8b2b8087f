import { type FormEvent, useState } from 'react';
import { api, Problem, type Session } from '../api/client';
import { Mark } from '../parts/Mark';

export function SignIn({ onSignedIn }: { onSignedIn: (session: Session) => void }) {
  const [email, setEmail] = useState('');
  const [password, setPassword] = useState('');
  const [problem, setProblem] = useState<Problem | null>(null);
  const [busy, setBusy] = useState(false);
  const submit = async (event: FormEvent) => {
    event.preventDefault();
    setBusy(true);
    setProblem(null);
    try {
      await api.session();
      onSignedIn(await api.signIn(email, password));
    } catch (error) {
      setProblem(Problem.of(error));
      setBusy(false);
    }
  };
  return (
    <main className="grid h-full grid-cols-[1fr_420px]">
      <section className="flex flex-col justify-between border-r border-line p-12">
        <div className="flex items-center gap-2 text-[19px] font-bold">
          <Mark size={16} /> sorvel
        </div>
        <div className="max-w-[520px]">
          <p className="text-[28px] leading-9 font-bold tracking-tight">
            Rules that are proved before anyone is affected.
          </p>
          <p className="mt-3 text-[15px] leading-6 text-soft">
            Every rule reads as a sentence. Every edit is replayed over sample tickets whose outcome is written down.
          </p>
        </div>
        <p className="soft text-[13px]">◆ acted &ensp; ◇ looked, did not act &ensp; ✓ agrees &ensp; ≠ differs</p>
      </section>
      <form onSubmit={submit} className="flex flex-col justify-center gap-3 bg-sheet p-12">
        <h1 className="mb-2">Sign in</h1>
        <label className="flex flex-col gap-1">
          Email address
          <input
            className="field h-9"
            type="email"
            name="email"
            autoComplete="username"
            required
            value={email}
            onChange={(e) => setEmail(e.target.value)}
          />
        </label>
        <label className="flex flex-col gap-1">
          Password
          <input
            className="field h-9"
            type="password"
            name="password"
            autoComplete="current-password"
            required
            value={password}
            onChange={(e) => setPassword(e.target.value)}
          />
        </label>
        {problem && (
          <p role="alert" className="border-l-3 border-red bg-redbg px-3 py-2">
            <b>{problem.message}</b> {problem.detail}
          </p>
        )}
        <button type="submit" className="btn btn-main mt-2 h-9" disabled={busy}>
          Sign in
        </button>
      </form>
    </main>
  );
}
