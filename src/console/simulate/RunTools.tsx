/** What can be done with the run that is shown: another name, or away with it. */
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { RunView } from '../../contract/index.js';
import { client } from '../api.js';
import { Button, Field, Input, Problem } from '../parts/ui.js';

export function RunTools({ run, onDeleted }: { run: RunView; onDeleted: () => void }) {
  const queries = useQueryClient();
  const [name, setName] = useState(run.name);
  const params = { run: run.id };
  const told = () => queries.invalidateQueries({ queryKey: ['runs'] });
  const rename = useMutation({
    mutationFn: () => client.call('PATCH /runs/{run}', { params, body: { name: name.trim() } }),
    onSuccess: told,
  });
  const remove = useMutation({
    mutationFn: () => client.call('DELETE /runs/{run}', { params }),
    onSuccess: () => {
      onDeleted();
      return told();
    },
  });
  const isNew = name.trim() !== '' && name.trim() !== run.name;
  return (
    <form
      className="flex flex-wrap items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        if (isNew) rename.mutate();
      }}
    >
      <Field label="Name of this run">
        {(id) => (
          <Input
            id={id}
            className="w-56"
            value={name}
            maxLength={80}
            onChange={(event) => setName(event.target.value)}
          />
        )}
      </Field>
      <Button type="submit" disabled={!isNew || rename.isPending}>
        Rename
      </Button>
      <Button disabled={remove.isPending} onClick={() => remove.mutate()}>
        Delete this run
      </Button>
      <Problem error={rename.error ?? remove.error} />
    </form>
  );
}
