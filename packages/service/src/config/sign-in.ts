import { z } from 'zod';
import { readNetwork } from './addresses.ts';

const claim = z.string().min(1).max(200);

/** What every way of signing in says of who comes by it. */
const who = {
  give: z.array(z.string().min(1)).optional().meta({
    description: 'Roles of everybody who signs in this way, in addition to their own.',
  }),
  prefix: z.string().max(50).optional().meta({
    description:
      'Put before the names of those who come this way, so that two ways have no name in common.',
  }),
};

const byClaims = {
  ...who,
  name: claim.optional().meta({ description: 'The claim that names the caller; sub.' }),
  title: claim.optional().meta({ description: 'The claim that people read; name.' }),
  roles: claim.optional().meta({
    description:
      'The claim with the roles, a list or a text: "roles", or "access.roles" inside of another; roles.',
  }),
};

const algorithms = z.enum([
  'RS256',
  'RS384',
  'RS512',
  'PS256',
  'PS384',
  'PS512',
  'ES256',
  'ES384',
  'ES512',
  'EdDSA',
]);

const url = z.string().refine((text) => /^https?:\/\//.test(text) && URL.canParse(text), {
  error: 'Here an address is expected, such as "https://id.example.com".',
});

/** An address or a network, such as 10.0.0.7 or 10.0.0.0/24. */
export const network = z.string().refine((text) => readNetwork(text) !== undefined, {
  error: 'Here an address is expected, such as 10.0.0.7, or a network, such as 10.0.0.0/24.',
});

const tokens = z.strictObject({ kind: z.literal('tokens'), ...who });

const jwt = z.strictObject({
  kind: z.literal('jwt'),
  issuer: z.string().min(1).meta({ description: 'Who signs them (iss).' }),
  audience: z.string().min(1).meta({ description: 'Whom they are for (aud).' }),
  keys: z.string().min(1).meta({
    description: 'The keys that they are signed by (JWKS): an address, or a file.',
  }),
  algorithms: z.array(algorithms).min(1).optional().meta({
    description:
      'By which they may be signed; RS256 and ES256. Those with a shared secret are not taken.',
  }),
  skew: z.int().min(0).max(600).optional().meta({
    description: 'Seconds that the clocks may differ; 60.',
  }),
  ...byClaims,
});

const proxy = z.strictObject({
  kind: z.literal('proxy'),
  header: z.string().min(1).meta({ description: 'Names the caller: X-Remote-User.' }),
  from: z.array(network).min(1).meta({
    description:
      'The only addresses whose header counts: 10.0.0.7, or a network 10.0.0.0/24. From elsewhere it is as if it were not there.',
  }),
  rolesHeader: z.string().min(1).optional().meta({ description: 'Roles, by commas.' }),
  titleHeader: z.string().min(1).optional(),
  claims: z.record(claim, z.string().min(1)).optional().meta({
    description: 'Claims for the rules of rows, each by its header: { lock: X-Remote-Lock }.',
  }),
  ...who,
});

const openid = z.strictObject({
  kind: z.literal('openid'),
  issuer: url.meta({
    description: 'The provider; the rest it tells itself (OpenID Connect Discovery).',
  }),
  client: z.string().min(1).meta({ description: 'What the provider calls this service.' }),
  secretFile: z.string().min(1).optional().meta({
    description: 'A file with the secret of the client; without it the client is a public one.',
  }),
  label: z
    .string()
    .min(1)
    .max(60)
    .optional()
    .meta({ description: 'What people read on its button.' }),
  scopes: z.array(z.string().min(1)).optional().meta({ description: 'Beside openid; profile.' }),
  hours: z.number().min(0.01).max(720).optional().meta({
    description: 'How long somebody stays signed in; 8.',
  }),
  ...byClaims,
});

/** The ways in which callers say who they are. */
export const signIn = z
  .array(z.discriminatedUnion('kind', [tokens, jwt, proxy, openid]))
  .min(1)
  .meta({
    description:
      'How callers say who they are; a caller who cannot is refused. Without it everybody who reaches the service is served.',
  });

export type SignInConfiguration = z.infer<typeof signIn>;
export type WayIn<Kind extends SignInConfiguration[number]['kind']> = Extract<
  SignInConfiguration[number],
  { kind: Kind }
>;
