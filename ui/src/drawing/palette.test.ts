import { readFileSync } from 'node:fs';
import { expect, test } from 'vitest';
import { palette } from './palette';

test('files have the colours of light paper', () => {
  const tokens = readFileSync('src/app/tokens.css', 'utf8');
  for (const [name, colour] of Object.entries(palette)) expect(tokens).toContain(`--color-${name}: ${colour};`);
});
