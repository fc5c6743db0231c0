/** The teams that there are: made, joined and left here as a game does it, with what they hold and have reached. */
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { TeamRow, TeamView } from '../../contract/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { basketText, documentLabels } from '../../core/texts/amounts.js';
import { goalWords } from '../../core/texts/progress.js';
import { client, usePlayers } from '../api.js';
import { AddByName } from '../parts/AddByName.js';
import { Ask } from '../parts/Ask.js';
import { useParam } from '../parts/search.js';
import { Button, Choice, DataTable, Empty, Field, Input, Problem, Sheet, instantWords } from '../parts/ui.js';

/** Those of the kind that is open; all where none is. */
export function Teams({ document, kind }: { document: EconomyDocument; kind: string | undefined }) {
  const [open, setOpen] = useParam('team', '');
  const teams = useQuery({
    queryKey: ['teams', kind],
    queryFn: () => client.call('GET /teams', { query: { limit: 200, ...(kind ? { kind } : {}) } }),
  });
  const queries = useQueryClient();
  const make = useMutation({
    mutationFn: (body: { id: string; kind: string; name: string }) => client.call('POST /teams', { body }),
    onSuccess: async ({ id }) => {
      setOpen(id);
      await queries.invalidateQueries({ queryKey: ['teams'] });
    },
  });
  const rows = teams.data?.items ?? [];
  const named = (id: string) => document.teams?.[id]?.name ?? id;
  return (
    <Sheet title={kind === undefined ? 'Teams of players' : `Teams of the kind ${named(kind)}`}>
      {kind === undefined ? (
        <p className="mb-2 text-sm text-soft">Open a kind above to make a team of it.</p>
      ) : (
        <div className="mb-2">
          <AddByName
            what="team"
            taken={(id) => rows.some((one) => one.id === id)}
            onAdd={(id, name) => make.mutate({ id, kind, name })}
          />
        </div>
      )}
      <Problem error={make.error ?? teams.error} />
      {rows.length === 0 ? (
        <Empty>There are none yet. Games make them over HTTP, and support makes them here.</Empty>
      ) : (
        <DataTable<TeamRow>
          label="Teams of players"
          rows={rows}
          rowKey={({ id }) => id}
          columns={[
            {
              head: 'team',
              cell: ({ id, name }) => (
                <button
                  type="button"
                  aria-expanded={open === id}
                  className="font-semibold underline"
                  onClick={() => setOpen(open === id ? '' : id)}
                >
                  {name}
                </button>
              ),
            },
            { head: 'id', cell: ({ id }) => id },
            { head: 'kind', cell: (one) => named(one.kind) },
            { head: 'members', right: true, cell: ({ members }) => members },
          ]}
        />
      )}
      {rows.some(({ id }) => id === open) && <OneTeam key={open} id={open} document={document} />}
    </Sheet>
  );
}

function OneTeam({ id, document }: { id: string; document: EconomyDocument }) {
  const params = { team: id };
  const { data: team, error } = useQuery({
    queryKey: ['team', id],
    queryFn: () => client.call('GET /teams/{team}', { params }),
  });
  const queries = useQueryClient();
  const followed = () =>
    Promise.all([['team', id], ['teams']].map((queryKey) => queries.invalidateQueries({ queryKey })));
  const players = usePlayers().data?.items ?? [];
  const move = useMutation({
    mutationFn: ({ player, joins }: { player: string; joins: boolean }) =>
      client.call(`${joins ? 'PUT' : 'DELETE'} /teams/{team}/members/{player}`, { params: { team: id, player } }),
    onSuccess: followed,
  });
  const rename = useMutation({
    mutationFn: (name: string) => client.call('PUT /teams/{team}/name', { params, body: { name } }),
    onSuccess: followed,
  });
  if (!team) return <Problem error={error} />;
  const labels = documentLabels(document);
  const others = players.filter((one) => !team.members.some(({ player }) => player === one.id));
  return (
    <section aria-label={team.name} className="mt-3 flex flex-col gap-2 border-t border-line pt-3">
      <header className="flex flex-wrap items-baseline gap-3">
        <h3 className="text-lg">{team.name}</h3>
        <span className="text-soft">
          {team.members.length} of {team.most ?? 'no'} members; holds {basketText(labels, team.holdings) || 'nothing'}
        </span>
        <span className="ml-auto">
          <Ask
            label="Dissolve"
            title={`Dissolve ${team.name}?`}
            does={`Its ${team.members.length} members are in none then, and what it holds is lost. It cannot be had back.`}
            yes="Dissolve it"
            act={async () => {
              await client.call('DELETE /teams/{team}', { params });
              // The list is without it before anything else is asked for again: nobody asks for a team that is no more.
              await queries.refetchQueries({ queryKey: ['teams'] });
            }}
          />
        </span>
      </header>
      {team.goals.length > 0 && (
        <ul aria-label="Goals of the team" className="list-disc pl-5">
          {team.goals.map((goal) => (
            <li key={goal.goal}>{goalWords(labels, { ...goal, team: null })}</li>
          ))}
        </ul>
      )}
      <form
        className="w-64"
        onSubmit={(event) => {
          event.preventDefault();
          rename.mutate(String(new FormData(event.currentTarget).get('name')));
        }}
      >
        <Field label="Team's name">
          {(field) => (
            <Input id={field} name="name" key={team.name} defaultValue={team.name} maxLength={120} required />
          )}
        </Field>
      </form>
      <Problem error={move.error ?? rename.error} />
      {team.members.length > 0 && (
        <DataTable<TeamView['members'][number]>
          label={`Members of ${team.name}`}
          rows={team.members}
          rowKey={({ player }) => player}
          columns={[
            { head: 'member', cell: ({ name }) => name },
            { head: 'id', cell: ({ player }) => player },
            { head: 'since', cell: ({ joinedMs }) => instantWords(joinedMs, document.timeZone) },
            {
              head: '',
              right: true,
              cell: ({ player, name }) => (
                <Button
                  className="py-0"
                  aria-label={`${name} leaves`}
                  onClick={() => move.mutate({ player, joins: false })}
                >
                  Leaves
                </Button>
              ),
            },
          ]}
        />
      )}
      {others.length > 0 && (
        <div className="w-64">
          <Field label="Let a player join">
            {(field) => (
              <Choice
                id={field}
                value=""
                options={others.map((one) => ({ value: one.id, label: `${one.name} (${one.id})` }))}
                onChange={(player) => move.mutate({ player, joins: true })}
              />
            )}
          </Field>
        </div>
      )}
    </section>
  );
}
