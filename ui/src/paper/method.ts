import type { Method, SectionOf } from '../lib/api';
import { count, many, percent } from '../lib/format';
import { sentence } from '../lib/steps';
import type { Item } from './items';

/** How the figures came about: data, bases, cleaning, lexicon, rules, tests, coverage, agreement, revision. */
export function methodItems(s: SectionOf<'method'>): Item[] {
  const m = s.method;
  if (!m) return [];
  const out: Item[] = [{ kind: 'heading', level: 2, text: s.block.title || `How “${s.about}” was coded` }];
  const head = (text: string) => out.push({ kind: 'heading', level: 3, text });
  const text = (words: string) => out.push({ kind: 'text', runs: [{ text: words }] });
  const list = (items: string[], ordered = false) =>
    out.push({ kind: 'list', ordered, items: items.map((words) => [{ text: words }]) });

  head('Data');
  const statuses = m.statuses.filter((x) => x.answers > 0);
  text(
    `${many(m.respondents, 'respondent')}: ${statuses.map((x) => `${count(x.answers)} ${x.status}`).join(', ')}. ` +
      `Language: ${m.language}. Revision ${s.revision} of the coding.` +
      (m.mask ? ' Personal data is masked, and was not read.' : ''),
  );
  if (m.derived.length) text(`Variables made of others: ${m.derived.join(', ')}.`);
  head('Bases and tests');
  text(
    'Shares are of the answered unless a figure says otherwise. An answer may have several categories, so shares add to more than 100 %. ' +
      'Intervals are at 95 % (Wilson). Columns are compared by two-sided z tests on pooled shares, rows by chi-square or, with small expected counts of two by two, by Fisher’s exact test; ' +
      'p is corrected as each figure says. A base under 30 is marked and not tested; under 10 no share is given.' +
      (m.weight ? ` Weights are in ${m.weight}; where figures are weighted, tests use effective bases.` : ''),
  );
  head('Cleaning');
  text('The respondents’ words were not altered: steps make a second reading, in this order.');
  if (m.cleaning.length)
    list(
      m.cleaning.map((x) => `${sentence(x)}: ${many(x.answers, 'answer')}`),
      true,
    );
  else text('No step was on.');
  text(`${many(m.noAnswers, 'phrase')} of refusal count as no answer.`);
  head('Words');
  text(
    `${m.inflections ? 'Inflections of a word count together' : 'Each form of a word counts by itself'}; ` +
      `${many(m.merges, 'merge')} of synonyms and spellings, ${many(m.lists, 'list')} of terms. ${stops(m)}`,
  );
  head('Categories and rules');
  const answered = statuses.find((x) => x.status === 'answered')?.answers ?? 0;
  text(
    `${count(m.coded)} of ${count(answered)} answered have a category${answered ? ` (coverage ${percent(m.coded / answered)})` : ''}; ` +
      `${count(m.settled)} more were read and need none. ` +
      `By hand, categories were put on or taken off ${many(m.decisions, 'answer')}.` +
      (m.suggested ? ` ${many(m.suggested, 'answer')} have a category that was suggested and not read.` : '') +
      (m.single ? ' Each answer is in one category only, the first that has it.' : '') +
      (m.unreadRules ? ` ${many(m.unreadRules, 'rule')} can’t be read and catch nothing.` : ''),
  );
  out.push({ kind: 'table', name: 'Categories and rules', table: rulesTable(m) });
  head('Agreement');
  if (!m.agreement.length) text('No sample was coded blind, so how good the coding is was not measured.');
  else
    list(
      m.agreement.map(
        (a) =>
          `${a.sample}, ${a.coder || 'a coder without a name'}: ${many(a.answers, 'answer')}; precision ${percent(a.precision)}, recall ${percent(a.recall)}, Cohen’s kappa ${a.kappa.toFixed(2)} (all categories together)`,
      ),
    );
  return out;
}

function stops({ stopWords: w }: Method) {
  const own = [
    w.add?.length && `${count(w.add.length)} more`,
    w.keep?.length && `${count(w.keep.length)} taken off it`,
  ].filter(Boolean);
  const list = w.base ? `the list for “${w.base}”` : 'no list of a language';
  return `Stop words (${[list, ...own].join(', ')}) shape lists of terms, never rules.`;
}

function rulesTable(m: Method) {
  const head = ['category', 'answers', 'rules'].map((words) => ({ words: [words], span: 1 }));
  return {
    head: [head],
    rows: m.categories.map((k) => {
      const rules = [
        ...k.rules,
        ...k.unless.map((r) => `unless ${r}`),
        ...Object.entries(k.fields ?? {}).map(([name, value]) => `${name}: ${value}`),
        ...(k.hand ? [`by hand: ${count(k.hand)}`] : []),
        ...(k.off ? ['turned off'] : []),
      ];
      return {
        depth: k.path.length - 1,
        sum: false,
        cells: [
          { text: `${k.short ? `${k.short}  ` : ''}${k.path.at(-1)}`, small: k.note ? [k.note] : [] },
          { text: count(k.answers), small: [] },
          { text: rules[0] ?? '', small: rules.slice(1) },
        ],
      };
    }),
  };
}
