import { createContext, type ReactNode, useContext, useEffect, useRef, useState } from 'react';
import type { Edit } from '../lib/api';
import { useDesk } from '../lib/edits';
import { Dialog, Ends } from '../parts/Dialog';
import { EffectOf, useEffectOf } from '../rule/EffectOf';

type Weighed = { edit: Edit; title: string; go: string };

const Context = createContext<(w: Weighed) => void>(() => {});

/** Shows what an edit of the lexicon would change before it is kept; one that changes no category and no base is kept at once. */
export const useWeigh = () => {
  const weigh = useContext(Context);
  return (edit: Edit, title: string, go = 'Keep') => weigh({ edit, title, go });
};

export function WeighProvider({ children }: { children: ReactNode }) {
  const [weighed, setWeighed] = useState<Weighed>();
  return (
    <Context.Provider value={setWeighed}>
      {children}
      {weighed && <Weigh key={JSON.stringify(weighed.edit)} {...weighed} close={() => setWeighed(undefined)} />}
    </Context.Provider>
  );
}

function Weigh({ edit: change, title, go, close }: Weighed & { close: () => void }) {
  const { edit } = useDesk();
  const { now } = useEffectOf(change, true);
  const harmless = !!now && !now.categories.length && !now.misfits.length && now.answered === now.answeredBefore;
  const kept = useRef(false);
  const keep = () => {
    if (kept.current) return;
    kept.current = true;
    close();
    edit(change);
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: once, when it turns out so
  useEffect(() => {
    if (harmless) keep();
  }, [harmless]);
  return (
    <Dialog title={title} close={close}>
      <form
        className="grid gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          keep();
        }}
      >
        <EffectOf change={change} />
        <Ends go={go} ready={!!now && !harmless} close={close} />
      </form>
    </Dialog>
  );
}
