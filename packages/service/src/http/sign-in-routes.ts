import { ownPath } from '@ephoros/core/path';
import { Router, type Request, type RequestHandler } from 'express';
import { z } from 'zod';
import { refuseParameters } from '../query/index.ts';
import { SignInUnavailable, SignInRefused, type SignIn } from '../sign-in/index.ts';
import { smallJsonOf } from './body-text.ts';
import { sendJson, sendMade, sendNothing, setRoute, type RequestPolicy } from './exchange.ts';
import { readJsonBody } from './json-body.ts';
import { isOfOwnPage } from './own-origin.ts';
import { foreignPage, notFound, unauthorized } from './refusals.ts';

const tokenBody = z.strictObject({ token: z.string().min(1).max(16_384) });

const programBody = z.strictObject({ challenge: z.string().regex(/^[\w-]{43}$/) });
const exchangeBody = z.strictObject({
  code: z.string().min(1).max(16_384),
  verifier: z.string().regex(/^[\w-]{43,128}$/),
});

export interface SignInRouteOptions {
  readonly address?: string | undefined;
  /** Lets a request in by what its address has sent so far. @throws HttpRefusal */
  readonly count?: RequestPolicy['count'] | undefined;
}

/**
 * Signing in and out by a browser. `address` is where browsers reach the service; by default what the request
 * names as its host, over plain HTTP. `title` is read before anybody is known.
 */
export function signInRoutes(
  signIn: SignIn,
  title: string,
  { address, count }: SignInRouteOptions = {},
): Router {
  const router = Router({ caseSensitive: true });
  // Before anything of a body is read.
  router.post(/^\/sign-(?:in\/|out$)/, async (request, response, next) => {
    await count?.({ request, response, access: undefined });
    next();
  });
  const urlOf = (request: Request, path: string): URL =>
    new URL(path, address ?? `http://${request.headers.host ?? 'localhost'}`);

  const ofOwnPage: RequestHandler = (request, _response, next) => {
    // Else a page elsewhere could sign somebody in as another, or out.
    next(isOfOwnPage(request, address) === false ? foreignPage() : undefined);
  };

  router.get('/sign-in/ways', (request, response) => {
    setRoute(response, '/sign-in/ways');
    refuseParameters(request.url);
    sendJson(request, response, JSON.stringify({ title, ways: signIn.offered() }));
  });

  router.get('/sign-in/at/:number', async (request, response) => {
    setRoute(response, '/sign-in/at/:number');
    const number = Number(request.params.number);
    const back = ownPath(new URL(request.url, 'http://here').searchParams.get('back'));
    const redirect = urlOf(request, '/sign-in/back').href;
    try {
      const url = await signIn.toProvider(number, { redirect, back }, response);
      if (url === undefined) throw notFound(request.path);
      go(response, url.href);
    } catch (thrown) {
      if (!(thrown instanceof SignInUnavailable)) throw thrown;
      go(response, `/sign-in?failed=away&back=${encodeURIComponent(back)}`);
    }
  });

  router.get('/sign-in/back', async (request, response) => {
    setRoute(response, '/sign-in/back');
    try {
      const url = urlOf(request, request.originalUrl);
      go(response, await signIn.fromProvider(url, request, response));
    } catch (thrown) {
      if (!(thrown instanceof SignInRefused) && !(thrown instanceof SignInUnavailable))
        throw thrown;
      go(
        response,
        `/sign-in?failed=${thrown instanceof SignInUnavailable ? 'unavailable' : 'refused'}`,
      );
    }
  });

  router.post('/sign-in/token', ofOwnPage, async (request, response) => {
    setRoute(response, '/sign-in/token');
    const { token } = readJsonBody(await smallJsonOf(request, response), tokenBody);
    await signIn.byToken(token, request, response);
    sendNothing(response);
  });

  router.post('/sign-in/program', ofOwnPage, async (request, response) => {
    setRoute(response, '/sign-in/program');
    // A browser alone does this, at a page of the service.
    if (isOfOwnPage(request, address) !== true) throw foreignPage();
    const { challenge } = readJsonBody(await smallJsonOf(request, response), programBody);
    const code = await signIn.letProgram(request, challenge);
    if (code === undefined) throw unauthorized();
    sendMade(request, response, JSON.stringify({ code }), {});
  });

  router.post('/sign-in/program/token', async (request, response) => {
    setRoute(response, '/sign-in/program/token');
    const { code, verifier } = readJsonBody(await smallJsonOf(request, response), exchangeBody);
    const token = await signIn.tokenFor(code, verifier, request);
    sendMade(request, response, JSON.stringify({ token }), {});
  });

  router.post('/sign-out', ofOwnPage, async (request, response) => {
    setRoute(response, '/sign-out');
    await signIn.end(request, response);
    sendNothing(response);
  });

  return router;
}

function go(response: Parameters<RequestHandler>[1], url: string): void {
  response.set('Cache-Control', 'no-store').redirect(303, url);
}
