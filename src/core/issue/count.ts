/** `1 error`, `2 errors`. */
export const countText = (count: number, word: string): string => `${count} ${word}${count === 1 ? '' : 's'}`;
