import type { Notice } from './interfaces.ts';

export { type AddressRules, checkAddress, ForbiddenAddress } from './http/addresses.ts';
export type { Answer, Call, Request } from './http/call.ts';
export { masked } from './http/masked.ts';
export type { Meter } from './http/metered.ts';
export { beginConsent, endConsent, type OAuthSettings, type TokenStore, type Tokens } from './http/oauth.ts';
export { probeAddress } from './http/probe-address.ts';
export type { RecordedCall, Recorder } from './http/recorded.ts';
export { callStack } from './http/stack.ts';
export type { Exchange } from './http/tapped.ts';
export type { HealthListener } from './http/watched.ts';
export * from './interfaces.ts';
export { type Descriptor, descriptorSchema } from './json-api/descriptor.ts';
export { draftDescriptor } from './json-api/open-api.ts';
export { type Kind, type Misfit, memoryTokens, type OpenOptions } from './kind.ts';
export { kinds } from './kinds.ts';
export * from './outside-error.ts';
export * from './whole-changes.ts';
