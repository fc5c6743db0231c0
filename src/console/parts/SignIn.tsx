/** Signing in: before anything is shown, and again above what stands there once the session is over. */
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { ReactNode } from 'react';
import { ApiProblem } from '../../client/index.js';
import { client } from '../api.js';
import { Button, Field, Input, Problem, Window } from './ui.js';

export const isSignedOut = (error: unknown): boolean => error instanceof ApiProblem && error.kind === 'not-signed-in';

function Form({ failed, children }: { failed?: unknown; children: ReactNode }) {
  const queries = useQueryClient();
  const [token, setToken] = useState('');
  const [failure, setFailure] = useState<unknown>(failed);
  const enter = (): void => {
    client
      .call('POST /session', { body: { token: token.trim() } })
      // What was refused meanwhile is asked for once more.
      .then(() => queries.invalidateQueries(), setFailure);
  };
  return (
    <form
      className="flex flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        enter();
      }}
    >
      <Field label="Access token">
        {(id) => (
          <Input
            id={id}
            type="password"
            autoComplete="off"
            value={token}
            onChange={(event) => setToken(event.target.value)}
          />
        )}
      </Field>
      <Button look="primary" type="submit" disabled={token.trim() === ''}>
        Sign in
      </Button>
      <p className="text-sm text-soft">{children}</p>
      <Problem error={failure} />
    </form>
  );
}

const WHERE_FROM = (
  <>
    The demo prints a link that signs you in. Elsewhere, <code>dimestall token</code> makes a token.
  </>
);

export function SignIn({ failed }: { failed: unknown }) {
  return (
    <main className="mx-auto mt-24 max-w-md rounded-sheet border border-line bg-sheet shadow-sheet">
      <div className="awning" aria-hidden />
      <div className="flex flex-col gap-4 p-6">
        <h1 className="text-2xl">Dime Stall</h1>
        <Form failed={failed}>{WHERE_FROM}</Form>
      </div>
    </main>
  );
}

/** Over the room, where whatever was typed stays. */
export function SignInAgain({ onClose }: { onClose: () => void }) {
  return (
    <Window title="You are signed out" open onClose={onClose}>
      <p className="mb-3">
        The session is over. What you typed is still here: sign in, then press Try again where it was not saved.
      </p>
      <Form>{WHERE_FROM} A link that signs in does so for this page too, from another tab.</Form>
    </Window>
  );
}
