import openapiTS, { astToString } from 'openapi-typescript';
import { expect, test } from 'vitest';
import document from '../../../internal/api/openapi.json?raw';
import made from './schema.gen.ts?raw';

// The types come from the server's document; run make types.
test('the types are not stale', async () => {
  expect(made).toContain(astToString(await openapiTS(JSON.parse(document))).trim());
});
