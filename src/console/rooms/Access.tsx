/** Access: who can sign in, with what rights and until when; a new token, and the end of one. */
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { calendarPath } from '../../contract/calendarPath.js';
import type { Role, TokenView } from '../../contract/index.js';
import { client, useDraft } from '../api.js';
import { Ask } from '../parts/Ask.js';
import { useParam } from '../parts/search.js';
import { Badge, Button, Choice, DataTable, Field, Input, Problem, Sheet, Waiting, instantWords } from '../parts/ui.js';

/** What each role is for, as somebody who gives it away would say. */
const ROLE_WORDS: Record<Role, string> = {
  calendar: 'calendar: an address for a calendar program',
  read: 'read: looks at everything',
  game: 'game: a game that buys and reports',
  design: 'design: changes the draft',
  publish: 'publish: makes it live',
  support: 'support: grants, and reads the trail',
  admin: 'admin: all of these, and access',
};

export default function Access() {
  const zone = useDraft().data?.document.timeZone;
  const { data, error } = useQuery({ queryKey: ['tokens'], queryFn: () => client.call('GET /tokens') });
  if (error) return <Problem error={error} />;
  if (!data) return <Waiting />;
  return (
    <div className="flex flex-col gap-3">
      <h1 className="text-2xl">Access</h1>
      <div className="grid items-start gap-3 lg:grid-cols-[2fr_1fr]">
        <Sheet title="Who can sign in">
          <DataTable
            label="Tokens and sessions"
            rows={data.items}
            rowKey={({ id }) => id}
            columns={[
              { head: 'whose', cell: ({ name }) => <strong>{name}</strong> },
              { head: 'role', cell: ({ role }) => role },
              { head: 'what', cell: ({ kind }) => <Badge tone={kind === 'token' ? 'good' : 'quiet'}>{kind}</Badge> },
              { head: 'since', cell: ({ createdMs }) => instantWords(createdMs, zone) },
              {
                head: 'until',
                cell: ({ expiresMs }) => (expiresMs === null ? 'it is revoked' : instantWords(expiresMs, zone)),
              },
              { head: '', cell: (token) => <Revoke token={token} />, right: true },
            ]}
          />
        </Sheet>
        <NewToken />
      </div>
    </div>
  );
}

const Revoke = ({ token: { id, kind, name, role } }: { token: TokenView }) => (
  <Ask
    label="Revoke"
    title={`Revoke the ${kind} of ${name}?`}
    does={
      kind === 'token'
        ? `Whoever uses it (${role}) is refused from the next moment on, and so are the sessions that were opened with it. It cannot be had back.`
        : 'Whoever is signed in with it has to sign in again.'
    }
    yes="Revoke it"
    act={() => client.call('DELETE /tokens/{token}', { params: { token: id } })}
  />
);

function NewToken() {
  const queries = useQueryClient();
  const [name, setName] = useState('');
  const [written, setRole] = useParam('role', 'read');
  const role = written in ROLE_WORDS ? (written as Role) : 'read';
  const [days, setDays] = useState('');
  const make = useMutation({
    mutationFn: () =>
      client.call('POST /tokens', {
        body: { name: name.trim(), role, ...(days === '' ? {} : { days: Number(days) }) },
      }),
    onSuccess: () => {
      setName('');
      return queries.invalidateQueries({ queryKey: ['tokens'] });
    },
  });
  return (
    <Sheet title="A new token">
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (name.trim() !== '') make.mutate();
        }}
      >
        <Field label="Whose it is">
          {(id) => <Input id={id} value={name} onChange={(event) => setName(event.target.value)} />}
        </Field>
        <Field label="Role">
          {(id) => (
            <Choice
              id={id}
              value={role}
              onChange={setRole}
              options={Object.entries(ROLE_WORDS).map(([value, label]) => ({ value, label }))}
            />
          )}
        </Field>
        <Field label="Days that it is good (empty: until it is revoked)">
          {(id) => (
            <Input
              id={id}
              type="number"
              min={1}
              max={3650}
              value={days}
              onChange={(event) => setDays(event.target.value)}
            />
          )}
        </Field>
        <Button look="primary" type="submit" disabled={name.trim() === ''}>
          Make it
        </Button>
        <Problem error={make.error} />
        {make.data && (
          <p role="status">
            {make.data.role === 'calendar'
              ? `The address for the calendar program of ${make.data.name}: whoever has it can read the calendar of what is live. `
              : `The token of ${make.data.name}. `}
            It can be read this once:{' '}
            <code className="break-all">
              {make.data.role === 'calendar'
                ? `${window.location.origin}${calendarPath(make.data.token)}`
                : make.data.token}
            </code>
          </p>
        )}
      </form>
    </Sheet>
  );
}
