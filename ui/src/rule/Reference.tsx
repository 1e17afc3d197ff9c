import rules from '../../../docs/rules.md?raw';
import { Markdown } from '../parts/Markdown';
import { ScrollArea } from '../parts/ScrollArea';

/** The rule language with its examples, as docs/ has it, to be read beside the editor. */
export default function Reference() {
  return (
    <ScrollArea label="How rules are written" className="mt-2 h-[38vh] border border-line bg-sheet">
      <div className="px-3 py-1">
        <Markdown text={rules} />
      </div>
    </ScrollArea>
  );
}
