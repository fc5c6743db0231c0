/** Small economies to begin with: those of demo/starters, as text. */
const TEXTS = import.meta.glob('../../../demo/starters/*/*.yaml', { query: '?raw', import: 'default', eager: true });

export interface Starter {
  id: string;
  name: string;
  words: string;
  files: { path: string; text: string }[];
}

/** The first line of each says what it shows. */
export const STARTERS: readonly Starter[] = Object.entries(TEXTS as Record<string, string>).map(([path, text]) => {
  const [id, file] = path.split('/').slice(-2) as [string, string];
  return {
    id,
    name: /^name: (.*)$/m.exec(text)?.[1] ?? id,
    words: /^# (.*)$/m.exec(text)?.[1] ?? '',
    files: [{ path: file, text }],
  };
});
