import { useState } from 'react';
import { useAddress } from '../lib/address';
import type { Condition } from '../lib/api';
import { personalKinds } from '../lib/conditions';
import { useDesk, useStatus } from '../lib/edits';
import { count, many } from '../lib/format';
import { useAsk } from '../lib/queries';
import { Asked } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { Collapsible } from '../parts/Collapsible';
import { Dialog } from '../parts/Dialog';
import { Stops } from '../parts/Stops';
import { Caption } from '../parts/Text';

const line = 'grid grid-cols-[1fr_auto] items-baseline gap-x-1 gap-y-0.5 border-t py-1.75';

/** What is private in the answers: each kind with its count, to be read, overruled and masked. */
export function Personal({ mask }: { mask: boolean }) {
  const { edit } = useDesk();
  const { busy } = useStatus();
  const { pick, setPick } = useAddress();
  const [looking, setLooking] = useState(false);
  const found = useAsk('personal', {});
  return (
    <>
      <Caption>Personal data</Caption>
      <Asked query={found} lines={2}>
        {({ kinds, passed, hidden }) => {
          const some = kinds.filter((k) => k.answers > 0);
          return (
            <Stops as="ul" aria-label="Personal data" className="border-b">
              {some.length === 0 && <li className={`${line} text-soft`}>none was found</li>}
              {some.map((k) => {
                const to: Condition = { kind: 'personal', text: k.kind };
                return (
                  <li key={k.kind} className={line}>
                    <span>{personalKinds[k.kind]}</span>
                    <Button
                      look="plain"
                      data-stop=""
                      className="text-right"
                      aria-pressed={JSON.stringify(pick) === JSON.stringify([to])}
                      onClick={() => setPick([to])}
                    >
                      {count(k.answers)}
                    </Button>
                  </li>
                );
              })}
              <li className={line}>
                <label>
                  <Checkbox
                    checked={mask}
                    disabled={busy || (mask && hidden)}
                    change={(on) => edit({ kind: 'mask', on })}
                  />{' '}
                  masked in all of the study, and not read
                </label>
                {(some.length > 0 || passed.length > 0) && !hidden && (
                  <Button look="plain" data-stop="" className="text-sm" onClick={() => setLooking(true)}>
                    Look at it
                  </Button>
                )}
              </li>
            </Stops>
          );
        }}
      </Asked>
      <p className="mb-4 pt-1 text-sm text-soft">
        {found.data?.hidden &&
          'The texts are shown to those alone who may see what is masked: ask the owner of the study. '}
        Names and postal addresses in running text are not found: read for them before you pass answers on.
      </p>
      {looking && <Texts close={() => setLooking(false)} />}
    </>
  );
}

/** What was found, text by text; what is none can be said to be none. */
function Texts({ close }: { close: () => void }) {
  const { edit } = useDesk();
  const { busy } = useStatus();
  const found = useAsk('personal', {});
  return (
    <Dialog title="Personal data that was found" close={close}>
      <p className="pb-2 text-soft">
        Shown here as it stands in the answers, also while the study masks it everywhere else. Untick what is none; it
        is never masked then.
      </p>
      <Asked query={found}>
        {({ kinds, passed }) => (
          <>
            {kinds
              .filter((k) => k.texts.length > 0)
              .map((k) => (
                <div key={k.kind} className="pb-1.5">
                  <Collapsible words={`${personalKinds[k.kind]}: ${many(k.texts.length + k.more, 'text')}`}>
                    <ul aria-label={personalKinds[k.kind]} className="max-h-60 overflow-y-auto pl-4">
                      {k.texts.map((t) => (
                        <li
                          key={t.text}
                          className="flex items-baseline justify-between gap-4 border-t border-hair py-0.75"
                        >
                          <label className="min-w-0 break-words">
                            <Checkbox
                              checked
                              disabled={busy}
                              change={() => edit({ kind: 'not personal', texts: [t.text] })}
                            />{' '}
                            <span className="font-serif">{t.text}</span>
                          </label>
                          <span className="text-soft">{count(t.answers)}</span>
                        </li>
                      ))}
                    </ul>
                    {k.more > 0 && <p className="pl-4 text-soft">and {count(k.more)} more, less frequent ones</p>}
                  </Collapsible>
                </div>
              ))}
            {passed.length > 0 && (
              <Collapsible words={`Said to be none: ${many(passed.length, 'text')}`}>
                <ul aria-label="Said to be none" className="max-h-60 overflow-y-auto pl-4">
                  {passed.map((t) => (
                    <li key={t} className="border-t border-hair py-0.75">
                      <label>
                        <Checkbox
                          checked={false}
                          disabled={busy}
                          change={() => edit({ kind: 'not personal', texts: [t], not: true })}
                        />{' '}
                        <span className="font-serif">{t}</span>
                      </label>
                    </li>
                  ))}
                </ul>
              </Collapsible>
            )}
          </>
        )}
      </Asked>
      <p className="pt-2">
        <Button onClick={close}>Close</Button>
      </p>
    </Dialog>
  );
}
