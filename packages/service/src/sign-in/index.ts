/** Who asks: tokens, signed tokens, a proxy's word, sessions of browsers. */
export { accessOfPrincipal, accessOfRequest } from './caller.ts';
export type { Principal } from './principal.ts';
export { networks } from './proxy.ts';
export { SignInAway, SignInRefused, TooManyAttempts } from './refusals.ts';
export { claimsOf, SignIn, type OfferedWay, type SignInOptions } from './sign-in.ts';
