/** What cannot be drawn says so in its place, and the rest of the console goes on. */
import { Component } from 'react';
import type { ReactNode } from 'react';
import { useLocation } from 'react-router';
import { Button, Problem } from './ui.js';

interface State {
  at: string;
  error: Error | undefined;
}

class Caught extends Component<{ at: string; children: ReactNode }, State> {
  override state: State = { at: this.props.at, error: undefined };

  /** Another room is another try. */
  static getDerivedStateFromProps({ at }: { at: string }, before: State): State | null {
    return at === before.at ? null : { at, error: undefined };
  }

  static getDerivedStateFromError(error: Error): Partial<State> {
    return { error };
  }

  override render(): ReactNode {
    const { error } = this.state;
    return error ? <CannotShow what="This room" error={error} /> : this.props.children;
  }
}

/** What most often stands behind it: the service has another version by now, and what was asked for is gone. */
export const CannotShow = ({ what, error }: { what: string; error: Error }) => (
  <Problem error={new Error(`${what} cannot be shown.`)}>
    <p className="my-2">
      If the service was changed for another version, the page has to be loaded anew: <code>{error.message}</code>
    </p>
    <Button look="primary" onClick={() => window.location.reload()}>
      Load the page anew
    </Button>
  </Problem>
);

export function Boundary({ children }: { children: ReactNode }) {
  return <Caught at={useLocation().pathname}>{children}</Caught>;
}
