import { useLost, useTrouble } from '../lib/live';
import { required } from '../lib/required';

const time = (t: Date) => t.toLocaleTimeString('en-GB');

/** Says once, above everything, that the server or its database is away, or soon will be. */
export function Lost() {
  const since = useLost();
  const trouble = useTrouble();
  if (!since && !trouble) return null;
  return (
    <p role="alert" className="bg-clay px-4 py-1.5 text-paper">
      {since
        ? `The server can’t be reached. What you see is as of ${time(since)}; everything you kept is safe, and all of it is asked for again as soon as the server is back.`
        : required(trouble).since
          ? `The database is away since ${time(new Date(required(trouble?.since)))}. Nothing can be kept until it is back; everything you kept before is safe. ${required(trouble).what}`
          : `${required(trouble).what} Make room before you load or change much: what can’t be written is refused.`}
    </p>
  );
}
