import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query';
import { createContext, type ReactNode, useCallback, useContext, useMemo, useRef, useState } from 'react';
import { useAddress } from './address';
import {
  api,
  type Edit,
  type Effect,
  type FrameLine,
  type History,
  type Question,
  Refusal,
  type SetupEdit,
  take,
} from './api';
import { many } from './format';
import { asOwn } from './live';
import { askAgain, keys, useQuestionId } from './queries';
import { required } from './required';

/** What was just done, or went wrong. */
export type Notice = {
  text: string;
  bad?: boolean;
  /** The edit that can be taken back. */
  undo?: number;
  /** What else can be done about it. */
  action?: { words: string; act: () => void };
};

/** What comes and goes with every edit: apart from the rest, so that not everything is drawn anew for it. */
type Status = {
  /** With a number of its own, so that the same words said again are a new notice. */
  notice?: Notice & { at: number };
  busy: boolean;
};

type Desk = {
  question: Question;
  /** The figures at hand are those of the focus before. */
  stale: boolean;
  say: (n: Notice | undefined) => void;
  edit: (e: Edit) => Promise<Effect | undefined>;
  /** Changes what a column of the study is, or makes a variable. */
  editStudy: (e: SetupEdit) => Promise<boolean>;
  /** Takes an edit back: the newest there is, unless one is named. */
  undo: (edit?: number) => Promise<void>;
  /** Does the edit again that was undone last. */
  redo: () => Promise<void>;
  /** What undo would take along from other questions, once it was asked for. */
  warning?: { edit: number; summary: string; text: string };
  forgetWarning: () => void;
  cancel: () => void;
  /** Edits that could not be kept, since the server or its database was away or full. */
  unsent: Edit[];
  /** Sends them again, in their order. */
  sendAgain: () => void;
  discardUnsent: () => void;
};

/** What was refused for no reason of its own: the same may be taken later. */
const mayBeTakenLater = (e: unknown) => e instanceof Refusal && [0, 401, 503, 507].includes(e.status);

const Context = createContext<Desk | undefined>(undefined);
const StatusContext = createContext<Status>({ busy: false });

/** The open question and the ways to edit it. */
export function useDesk() {
  const d = useContext(Context);
  if (!d) throw new Error('no question is open');
  return d;
}

/** Whether an edit is on its way, and what was last said. */
export const useStatus = () => useContext(StatusContext);

function effectInWords(e: Effect) {
  const gained = e.categories.filter((c) => c.gained).length;
  const lost = e.categories.filter((c) => c.lost).length;
  const change = e.coded - e.codedBefore;
  const parts = [];
  if (gained) parts.push(`${many(gained, 'category', 'categories')} gained answers`);
  if (lost) parts.push(`${many(lost, 'category', 'categories')} lost some`);
  if (change) parts.push(`${many(Math.abs(change), 'answer')} ${change > 0 ? 'more' : 'fewer'} coded`);
  const base = e.answered - e.answeredBefore;
  if (base) parts.push(`${many(Math.abs(base), 'answer')} ${base > 0 ? 'more' : 'fewer'} in the base`);
  return e.summary + (parts.length ? ` · ${parts.join(', ')}` : '');
}

type ProviderProps = { children: (d: { error?: Error; ready: boolean }) => ReactNode };

/** The question of the address. Another one has a desk of its own: nothing known, said or done here goes over to it. */
export function DeskProvider({ children }: ProviderProps) {
  const id = useQuestionId();
  return (
    <DeskOf key={id} id={id}>
      {children}
    </DeskOf>
  );
}

function DeskOf({ id, children }: ProviderProps & { id: number }) {
  const { focusText } = useAddress();
  const client = useQueryClient();
  const [notice, put] = useState<Notice & { at: number }>();
  const said = useRef(0);
  const setNotice = useCallback((n: Notice | undefined) => {
    said.current++;
    put(n && { ...n, at: said.current });
  }, []);
  const [busy, setBusy] = useState(false);
  const running = useRef<AbortController>(undefined);
  const question = useQuery({
    queryKey: keys.asked(id, 'state', { focus: focusText }),
    queryFn: ({ signal }) =>
      take(
        api.GET('/api/v1/questions/{question}', {
          params: { path: { question: id }, query: { focus: focusText } },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
  });
  const revision = question.data?.revision ?? 0;
  const latest = useRef(revision);
  latest.current = Math.max(revision, latest.current);

  // What undo and redo would do: as the newest answer of the server says, be it that of an edit or of the question. An edit of the
  // study leaves the question's revision as it is, so that an answer counts once, when it comes.
  const history = useRef<History>(undefined);
  const heard = useRef<History>(undefined);
  if (revision >= latest.current && heard.current !== question.data) {
    heard.current = history.current = question.data;
  }

  const study = question.data?.study.id;
  // Edits of the question and of its study go one after the other, each on the revision that the one before it made. What undo and redo
  // speak of is read when their turn comes: pressed three times at once, they are three steps.
  const chain = useRef<Promise<unknown>>(Promise.resolve());
  const inTurn = useCallback(<T,>(work: () => Promise<T>) => {
    const done = chain.current.then(work);
    chain.current = done.catch(() => undefined);
    return done;
  }, []);
  const [unsent, setUnsent] = useState<Edit[]>([]);
  const run = useCallback(
    async (work: (signal: AbortSignal) => Promise<Effect>, edit?: Edit) => {
      const kind = edit?.kind;
      const abort = new AbortController();
      running.current = abort;
      setBusy(true);
      try {
        const effect = await asOwn(client, { question: id, study: kind ? undefined : study }, () => work(abort.signal));
        latest.current = effect.revision;
        history.current = effect.history;
        setNotice({ text: effectInWords(effect), undo: kind && effect.edit });
        return effect;
      } catch (e) {
        if (e instanceof DOMException) setNotice({ text: 'Cancelled. Nothing was changed.' });
        else setNotice({ text: (e as Error).message, bad: true });
        if (edit && mayBeTakenLater(e)) setUnsent((all) => [...all, edit]);
        if (e instanceof Refusal && e.status === 409) latest.current = 0;
        return undefined;
      } finally {
        setBusy(false);
        askAgain(client, id, kind);
      }
    },
    [client, id, study, setNotice],
  );
  const editNow = useCallback(
    (e: Edit, on: number) =>
      run(
        (signal) =>
          take(
            api.POST('/api/v1/questions/{question}/edits', {
              params: { path: { question: id } },
              body: { revision: on, edit: e },
              signal,
            }),
          ),
        e,
      ),
    [id, run],
  );
  // The revision that the first of the edits which could not be kept was made on. It may have been kept all the same, and only its answer
  // was lost: made on the same revision again, it is refused then, and never made twice.
  const unsentOn = useRef(0);
  const edit = useCallback(
    (e: Edit) =>
      inTurn(() => {
        const on = latest.current || revision;
        if (!unsent.length) unsentOn.current = on;
        return editNow(e, on);
      }),
    [revision, unsent.length, inTurn, editNow],
  );
  const sendAgain = useCallback(
    () =>
      inTurn(async () => {
        setUnsent([]);
        for (const [i, e] of unsent.entries()) {
          const effect = await editNow(e, unsentOn.current);
          if (effect) unsentOn.current = effect.revision;
          else return setUnsent((all) => [...all, ...unsent.slice(i + 1)]);
        }
      }),
    [unsent, inTurn, editNow],
  );
  const discardUnsent = useCallback(() => setUnsent([]), []);
  const studyRevision = useRef(0);
  studyRevision.current = Math.max(studyRevision.current, question.data?.study.revision ?? 0);
  const editStudyNow = useCallback(
    async (e: SetupEdit) => {
      try {
        const done = await asOwn(client, { study: required(study) }, () =>
          take(
            api.POST('/api/v1/studies/{study}/edits', {
              params: { path: { study: required(study) } },
              body: { revision: studyRevision.current, edit: e },
            }),
          ),
        );
        studyRevision.current = done.revision;
        history.current = { undo: { edit: done.edit, summary: done.summary }, revisions: 0 };
        setNotice({ text: done.summary, undo: done.edit });
        return true;
      } catch (error) {
        setNotice({ text: (error as Error).message, bad: true });
        if (error instanceof Refusal && error.status === 409) studyRevision.current = 0;
        return false;
      }
    },
    [client, study, setNotice],
  );
  const editStudy = useCallback(
    async (e: SetupEdit) => {
      const done = await inTurn(() => editStudyNow(e));
      client.invalidateQueries({ queryKey: keys.studies });
      await askAgain(client);
      return done;
    },
    [client, inTurn, editStudyNow],
  );
  const [warning, setWarning] = useState<{ edit: number; summary: string; text: string }>();
  const undoNow = useCallback(
    async (named?: number, confirmed = false) => {
      const step = history.current?.undo;
      const taken = named ?? step?.edit;
      if (!taken) return setNotice({ text: 'There is nothing to undo.' });
      if (step?.edit === taken && step.warning && !confirmed) {
        return setWarning({ edit: taken, summary: step.summary, text: step.warning });
      }
      setWarning(undefined);
      await run((signal) =>
        take(
          api.POST('/api/v1/questions/{question}/undo', {
            params: { path: { question: id }, query: { edit: taken, confirmed } },
            signal,
          }),
        ),
      );
    },
    [id, run, setNotice],
  );
  const redoNow = useCallback(async () => {
    const step = history.current?.redo;
    if (!step) return setNotice({ text: 'There is nothing to redo.' });
    await run((signal) =>
      take(
        api.POST('/api/v1/questions/{question}/redo', {
          params: { path: { question: id }, query: { edit: step.edit } },
          signal,
        }),
      ),
    );
  }, [id, run, setNotice]);
  const cancel = useCallback(() => running.current?.abort(), []);
  const forgetWarning = useCallback(() => setWarning(undefined), []);
  const { data, isPlaceholderData: stale, error } = question;
  const desk = useMemo(
    () =>
      data && {
        question: data,
        stale,
        say: setNotice,
        edit,
        editStudy,
        undo: (named?: number) => inTurn(() => undoNow(named, named !== undefined && named === warning?.edit)),
        redo: () => inTurn(redoNow),
        warning,
        forgetWarning,
        cancel,
        unsent,
        sendAgain,
        discardUnsent,
      },
    [
      data,
      stale,
      setNotice,
      edit,
      editStudy,
      inTurn,
      undoNow,
      redoNow,
      warning,
      forgetWarning,
      cancel,
      unsent,
      sendAgain,
      discardUnsent,
    ],
  );
  const status = useMemo(() => ({ notice, busy }), [notice, busy]);
  const ready = !!desk;
  const shown = useMemo(() => children({ error: error ?? undefined, ready }), [children, error, ready]);
  if (!desk) return shown;
  return (
    <Context.Provider value={desk}>
      <StatusContext.Provider value={status}>{shown}</StatusContext.Provider>
    </Context.Provider>
  );
}

/** Categories to choose from, by their paths. */
export const categoryOptions = (lines: FrameLine[]) =>
  lines.map((l) => ({ value: l.id ?? '', words: l.path.join(' / ') }));
