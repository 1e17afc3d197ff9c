import { Component, type ReactNode, useState } from 'react';
import { Button } from './Button';

type Props = {
  /** What is inside, as the beginning of a sentence. */
  what: string;
  children: ReactNode;
};

/** Keeps a fault inside: what is around it goes on, and it says what was kept and what to do. */
export class Boundary extends Component<Props, { error?: Error }> {
  override state: { error?: Error } = {};

  static getDerivedStateFromError(error: Error) {
    return { error };
  }

  override render() {
    const { error } = this.state;
    if (!error) return this.props.children;
    return <Broken what={this.props.what} error={error} again={() => this.setState({ error: undefined })} />;
  }
}

/** A part of the program that was to be fetched is not there: the server has stopped, or is another version by now. */
const notFetched = (e: Error) => /dynamically imported|Importing a module|module script/i.test(e.message);

function Broken({ what, error, again }: { what: string; error: Error; again: () => void }) {
  const [away, setAway] = useState(false);
  const reload = async () => {
    const there = await fetch('/', { cache: 'no-store' }).then(
      (r) => r.ok,
      () => false,
    );
    if (there) location.reload();
    else setAway(true);
  };
  return (
    <section role="alert" className="grid max-w-[60ch] justify-items-start gap-2.5 p-4">
      <h2 className="font-serif text-xl font-semibold">
        {notFetched(error) ? `${what} could not be loaded` : `${what} has stopped working`}
      </h2>
      <p>
        {notFetched(error)
          ? 'The server can’t be reached, or it has been replaced by a newer version while this page was open.'
          : 'This is a fault of the program.'}{' '}
        Everything you kept is safe on the server; what you were typing into a rule is kept in this window.
      </p>
      {!notFetched(error) && <p className="text-sm text-soft">{error.message}</p>}
      <p className="flex gap-2.5">
        {!notFetched(error) && (
          <Button look="go" onClick={again}>
            Try again
          </Button>
        )}
        <Button look={notFetched(error) ? 'go' : 'normal'} onClick={reload}>
          Load the page again
        </Button>
      </p>
      {away && <p className="text-clay">The server does not answer yet. Start it, then press again.</p>}
    </section>
  );
}
