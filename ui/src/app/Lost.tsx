import { useLost } from '../lib/live';

/** Says once, above everything, that the server is away. */
export function Lost() {
  const since = useLost();
  if (!since) return null;
  return (
    <p role="alert" className="bg-clay px-4 py-1.5 text-paper">
      The server can’t be reached. What you see is as of {since.toLocaleTimeString('en-GB')}; everything you kept is
      safe, and all of it is asked for again as soon as the server is back.
    </p>
  );
}
