/**
 * The types of the HTTP interface, of which the client is made: from the declared routes over the OpenAPI document.
 * npm run openapi-types writes packages/contract/src/openapi.ts; with --check it only says whether that is up to date.
 */
import { readFileSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { openApi } from '../packages/service/src/http/openapi.ts';
import { routesOf } from '../packages/service/src/http/server.ts';

const target = new URL('../packages/contract/src/openapi.ts', import.meta.url);
// It stands beside the package that needs it.
const library = createRequire(target).resolve('openapi-typescript');
const { default: openapiTs, astToString } = (await import(library)) as typeof import('openapi-typescript');
// Routes look at the service when they are called, not when they are declared.
const document = openApi(routesOf({} as never));
const text = `// Made by npm run openapi-types: edit the shapes instead.\n\n${astToString(await openapiTs(JSON.stringify(document), { emptyObjectsUnknown: true }))}`;
if (!process.argv.includes('--check')) writeFileSync(target, text);
else if (readFileSync(target, 'utf8') !== text) {
  console.error('the types of the client are not those of the interface: run npm run openapi-types, and commit packages/contract/src/openapi.ts');
  process.exitCode = 1;
} else console.log('the types of the client are those of the interface');
