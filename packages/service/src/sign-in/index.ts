/** Who asks: tokens, signed tokens, a proxy's word, sessions of browsers. */
export { accessOfPrincipal } from './caller.ts';
export { noteOwn, ownHeaders, ownKey, remoteAddressOf } from './remote-address.ts';
export { SignInUnavailable, SignInRefused, TooManyAttempts } from './refusals.ts';
export { attemptBounds, claimsOf, SignIn, type SignInEvent } from './sign-in.ts';
