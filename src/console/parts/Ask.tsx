/** A question before what cannot be taken back, or what others feel at once. */
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { Dialog } from 'radix-ui';
import { useState } from 'react';
import type { ReactNode } from 'react';
import { Button, Problem } from './ui.js';

export function Ask({
  label,
  title,
  does,
  yes,
  act,
  children,
}: {
  label: string;
  title: string;
  does: string;
  yes: string;
  act: () => Promise<unknown>;
  children?: ReactNode;
}) {
  const queries = useQueryClient();
  const [open, setOpen] = useState(false);
  const run = useMutation({
    mutationFn: act,
    onSuccess: () => {
      setOpen(false);
      return queries.invalidateQueries();
    },
  });
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger asChild>
        <Button className="py-0">{label}</Button>
      </Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/40" />
        <Dialog.Content className="fixed top-1/3 left-1/2 z-50 w-96 -translate-x-1/2 rounded-sheet border border-line bg-sheet p-5 shadow-sheet">
          <Dialog.Title className="text-xl">{title}</Dialog.Title>
          <Dialog.Description className="my-3">{does}</Dialog.Description>
          {children}
          <Problem error={run.error} />
          <div className="mt-2 flex justify-end gap-2">
            <Dialog.Close asChild>
              <Button>Leave it</Button>
            </Dialog.Close>
            <Button look="primary" onClick={() => run.mutate()}>
              {yes}
            </Button>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
