export { type AddressRules, checkAddress, ForbiddenAddress } from './http/addresses.ts';
export type { Answer, Call, Request } from './http/call.ts';
export { callStack } from './http/stack.ts';
export type { HealthListener } from './http/watched.ts';
export * from './interfaces.ts';
export type { Descriptor } from './json-api/descriptor.ts';
export { type Kind, kinds, type OpenOptions } from './kinds.ts';
export * from './outside-error.ts';
export * from './whole-changes.ts';
