/** The console's one client, and its reads as hooks. Every change of the draft goes through `useEdits` (parts/edits.tsx). */
import { useQuery } from '@tanstack/react-query';
import { ApiProblem, Client } from '../client/index.js';
import type { JsonNode } from '../core/catalog/index.js';
import type { EconomyDocument, OfferDocument } from '../core/document/index.js';

export const client = new Client({ url: '', headers: { 'x-dimestall-console': '1' } });

/**
 * Edits keep what they do not touch as it is, so comparing the whole document each time would only cost. It is read
 * again when somebody else has saved, which the stream tells, and not because a panel asks for it too.
 */
export const useDraft = () =>
  useQuery({
    queryKey: ['draft'],
    queryFn: () => client.call('GET /draft'),
    structuralSharing: false,
    staleTime: Infinity,
  });
export const useAudit = () => useQuery({ queryKey: ['audit'], queryFn: () => client.call('GET /draft/audit') });
/** What came of each case of the draft. */
export const useCases = () => useQuery({ queryKey: ['cases'], queryFn: () => client.call('GET /cases') });
export const useChanges = (against?: string, at?: string) =>
  useQuery({
    queryKey: ['changes', against, at],
    queryFn: () => client.call('GET /draft/changes', { query: { against, at } }),
  });
export const useChannels = () => useQuery({ queryKey: ['channels'], queryFn: () => client.call('GET /channels') });
export const useReleases = () => useQuery({ queryKey: ['releases'], queryFn: () => client.call('GET /releases') });
export const usePlayers = () =>
  useQuery({ queryKey: ['players'], queryFn: () => client.call('GET /players', { query: { limit: 200 } }) });
export const useValues = (player: string) =>
  useQuery({
    queryKey: ['values', player],
    queryFn: () => client.call('GET /draft/values', { query: { player } }),
    enabled: player !== '',
  });
export const useRuns = () =>
  useQuery({ queryKey: ['runs'], queryFn: () => client.call('GET /runs', { query: { limit: 50 } }) });

/** The JSON Schema of the economy: what fields there are, and how each is written. */
export const useSchema = () =>
  useQuery({
    queryKey: ['schema'],
    staleTime: Infinity,
    queryFn: async () => (await (await fetch('/schemas/economy.json')).json()) as JsonNode,
  });

/** The document that a source names: the draft, a channel or a release; asked for again when what it names changes. */
export function useSource(source: string) {
  const { data: channels } = useChannels();
  const isFixed = source === 'draft' || /^\d+$/.test(source);
  const release = channels?.items.find(({ name }) => name === source)?.release ?? null;
  return useQuery({
    queryKey: ['source', source, isFixed ? 'as it is' : release],
    queryFn: async () => (await client.call('GET /sources/{source}', { params: { source } })).document,
    enabled: isFixed || release !== null,
  });
}

/** An offer as the engine names it: its own name, or that of the item it gives. */
export function offerName(document: EconomyDocument, id: string, { name, gives, count = 1 }: OfferDocument): string {
  if (name !== undefined || typeof gives !== 'string') return name ?? id;
  return `${document.items?.[gives]?.name ?? id}${count > 1 ? ` x${count}` : ''}`;
}

/** What went wrong, as lines for a person: the sentence, then each place with its way out. */
export function errorLines(error: unknown): string[] {
  if (!(error instanceof ApiProblem)) return [error instanceof Error ? error.message : String(error)];
  const changes = error.more('stale')?.changes ?? [];
  return [
    error.body.detail,
    ...(error.body.errors ?? []).map(({ pointer, detail, fix }) => `${pointer}: ${detail}. ${fix}`),
    ...changes.map(({ words }) => `Changed since: ${words}`),
  ];
}
