import { useCallback, useSyncExternalStore } from 'react';
import { api, take, type WrittenRule } from '../lib/api';
import { itemAt } from '../lib/required';
import { unit } from '../lib/text';

type Ask = (rules: string[]) => Promise<WrittenRule[]>;

/**
 * How rules are written, as the server says: its scanner is the only one. What is asked for together is asked in one request. A rule is
 * known by its whole text, so what is said of one can't be taken for another's.
 */
export class RuleReader {
  private known = new Map<string, WrittenRule>();
  private asked = new Map<string, Promise<WrittenRule>>();
  private waiting: { source: string; done: (w: WrittenRule) => void; fail: (e: unknown) => void }[] = [];
  private listeners = new Set<() => void>();

  constructor(
    private ask: Ask,
    /** How many rules are remembered, and asked for in one request. */
    private most = 5000,
    private atOnce = 500,
  ) {}

  /** What is known of a rule. */
  at = (source: string) => this.known.get(source);

  /** Asks for a rule, unless it is known. */
  read(source: string): Promise<WrittenRule> {
    const known = this.known.get(source);
    if (known) return Promise.resolve(known);
    const asked = this.asked.get(source);
    if (asked) return asked;
    const promise = new Promise<WrittenRule>((done, fail) => {
      if (!this.waiting.length) queueMicrotask(() => void this.send());
      this.waiting.push({ source, done, fail });
    });
    this.asked.set(source, promise);
    promise.catch(() => {}).finally(() => this.asked.delete(source));
    return promise;
  }

  listen = (changed: () => void) => {
    this.listeners.add(changed);
    return () => this.listeners.delete(changed);
  };

  private async send() {
    const waiting = this.waiting;
    this.waiting = [];
    for (let from = 0; from < waiting.length; from += this.atOnce) {
      const part = waiting.slice(from, from + this.atOnce);
      try {
        const read = await this.ask(part.map((p) => p.source));
        part.forEach((p, i) => {
          this.keep(p.source, itemAt(read, i));
          p.done(itemAt(read, i));
        });
        for (const changed of this.listeners) changed();
      } catch (e) {
        for (const p of part) p.fail(e);
      }
    }
  }

  private keep(source: string, w: WrittenRule) {
    const [oldest] = this.known.keys();
    if (this.known.size >= this.most && oldest !== undefined) this.known.delete(oldest);
    this.known.set(source, w);
  }
}

export const rules = new RuleReader((sources) => take(api.POST('/api/v1/rules', { body: { rules: sources } })));

/** How a rule is written; nothing until the server has said so. */
export function useWritten(source: string): WrittenRule | undefined {
  const listen = useCallback(
    (changed: () => void) => {
      rules.read(source).catch(() => {}); // it stays plain
      return rules.listen(changed);
    },
    [source],
  );
  return useSyncExternalStore(listen, () => rules.at(source));
}

/** One rule that matches what any of them does. */
export const alternatives = async (...sources: string[]) =>
  (await Promise.all(sources.map((s) => rules.read(s)))).map((w) => w.alternative).join(' / ');

/** A rule with the note of another, unless it has one. */
export async function withNoteOf(source: string, other: string) {
  const [own, of] = await Promise.all([rules.read(source), rules.read(other)]);
  return of.note && !own.note ? `${source} # ${of.note}` : source;
}

type Stretch = { text: string; kind?: WrittenRule['spans'][number]['kind'] };

/** A rule cut into stretches; one, without a kind, while nothing is known of it. */
export function stretches(source: string, w: WrittenRule | undefined): Stretch[] {
  const out: Stretch[] = [];
  let at = 0;
  for (const s of w?.spans ?? []) {
    const [start, end] = [unit(source, s.start), unit(source, s.end)];
    if (start > at) out.push({ text: source.slice(at, start) });
    out.push({ text: source.slice(start, end), kind: s.kind });
    at = end;
  }
  if (at < source.length) out.push({ text: source.slice(at) });
  return out;
}
