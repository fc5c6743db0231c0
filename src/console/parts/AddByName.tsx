/** A new thing by its name, which makes its id. */
import { useState } from 'react';
import { idFor } from '../../core/schema/ids.js';
import { Button, Input } from './ui.js';

export function AddByName({
  what,
  taken = () => false,
  onAdd,
}: {
  what: string;
  /** Whether an id cannot be used any more. */
  taken?: (id: string) => boolean;
  onAdd: (id: string, name: string) => void;
}) {
  const [name, setName] = useState('');
  const id = idFor(name, what, taken);
  return (
    <form
      className="flex gap-1"
      onSubmit={(event) => {
        event.preventDefault();
        if (id === '' || taken(id)) return;
        onAdd(id, name.trim());
        setName('');
      }}
    >
      <Input
        aria-label={`New ${what}'s name`}
        placeholder={`New ${what}'s name`}
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <Button type="submit" disabled={id === '' || taken(id)}>
        {id !== '' && taken(id) ? `${id} exists` : `Add ${what}`}
      </Button>
    </form>
  );
}
