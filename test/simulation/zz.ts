import { MemoryStore } from './memory-store.ts';
import { playSeries } from './series/play.ts';
const log: string[] = [];
let store: any;
const orig = MemoryStore.prototype.write;
const seen: string[] = [];
MemoryStore.prototype.write = async function (this: any, batch: any) { store = this; await orig.call(this, batch); for (const p of batch.pairs ?? []) seen.push(`${p.id.slice(0,6)} ${p.state} rec=${p.recordId} ${p.href} ${p.label}`), log.push('     pair ' + seen.at(-1)); for (const e of batch.entries ?? []) log.push(`     ${e.kind} ${e.pair.recordId} ${e.pair.href}: ${e.cause}`); };
await playSeries(Number(process.argv[2]), (l) => log.push(l)).catch((e) => log.push(e.message));
console.log(log.filter((l) => process.argv[3] === undefined || new RegExp(process.argv[3]).test(l)).join('\n'));
