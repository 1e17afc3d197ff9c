import { followed } from './followed';

const name = followed(globalThis.localStorage?.getItem('made by') ?? '');

/** Who makes edits in this browser, as they call themselves; empty where they did not say. */
export const maker = name.get;

/** The same, followed, and the way to say otherwise. */
export function useMaker(): [string, (to: string) => void] {
  return [
    name.use(),
    (to) => {
      const clean = to.trim().replace(/\s+/g, ' ').slice(0, 100);
      localStorage.setItem('made by', clean);
      name.set(clean);
    },
  ];
}

/** Who is signed in makes the edits, whatever was typed before. */
export function signedInAs(user: string | undefined) {
  if (user) name.set(user);
}
