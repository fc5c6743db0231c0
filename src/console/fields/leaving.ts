/** What happens when a field is left. */

/** A field that loses the focus because what it belongs to is shown no more keeps nothing. */
export const ifShown =
  (keep: () => void) =>
  ({ currentTarget }: { currentTarget: Element }): void => {
    if (currentTarget.isConnected) keep();
  };

/** The field that has the focus is left, and keeps what is typed in it: what it belongs to is about to be gone. */
export function focusLeave(): void {
  if (document.activeElement instanceof HTMLElement) document.activeElement.blur();
}

/** For the ref of a field: it has the focus when it appears, and what stands in it gives way to what is typed. */
export function focusOnce(field: HTMLInputElement | null): void {
  field?.focus();
  field?.select();
}
