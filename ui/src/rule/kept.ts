/** A rule that is being written. */
export type Writ = { was: string; unless: boolean; text: string };

const key = (question: number, category: string) => `writing ${question} ${category}`;

/** What is being written outlives going to another view, and reloading. */
export function keepWriting(question: number, category: string, w: Writ) {
  sessionStorage.setItem(key(question, category), JSON.stringify(w));
}

export function keptWriting(question: number, category: string): Writ | undefined {
  const kept = sessionStorage.getItem(key(question, category));
  return kept ? JSON.parse(kept) : undefined;
}

export function forget(question: number, category: string) {
  sessionStorage.removeItem(key(question, category));
}

/** A visit ends when nothing was seen of the frame for so long. */
const pause = 30 * 60_000;

type Visit = { seen: number; at: number; since: number };

/** Notes that a revision of the frame is on the screen, and gives the one that the last visit ended with. */
export function lastVisit(question: number, revision: number, now = Date.now()): number {
  const name = `visit ${question}`;
  const was: Visit | undefined = JSON.parse(localStorage.getItem(name) ?? 'null') ?? undefined;
  const since = !was ? revision : now - was.at > pause ? was.seen : was.since;
  localStorage.setItem(name, JSON.stringify({ seen: revision, at: now, since }));
  return since;
}
