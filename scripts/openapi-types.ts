/**
 * The types of the HTTP interface, of which the client is made: from the declared routes over the OpenAPI document. The
 * build writes them to packages/contract/src/openapi.ts, which is not kept.
 */
import { writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { openApi } from '../packages/service/src/http/openapi.ts';
import { routesOf } from '../packages/service/src/http/server.ts';

const target = new URL('../packages/contract/src/openapi.ts', import.meta.url);
// It stands beside the package that needs it.
const library = createRequire(target).resolve('openapi-typescript');
const { default: openapiTs, astToString } = (await import(library)) as typeof import('openapi-typescript');
// Routes look at the service when they are called, not when they are declared.
const document = openApi(routesOf({} as never));
const types = astToString(await openapiTs(JSON.stringify(document), { emptyObjectsUnknown: true }));
writeFileSync(target, `// Made by npm run openapi-types: edit the shapes instead.\n\n${types}`);
