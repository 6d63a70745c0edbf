/** The configuration file: read, checked, its errors placed. */
export { isLoopback, canonicalAddress, networks, senderOf } from './addresses.ts';
export { configurationJsonSchema, type Configuration, type TableConfiguration } from './schema.ts';
export {
  ConfigurationError,
  configurationOf,
  noConfiguration,
  parseConfiguration,
  readConfiguration,
  type ConfigurationFile,
} from './read.ts';
export type { SpellingConfiguration } from './spelling.ts';
export type { SignInConfiguration, WayIn } from './sign-in.ts';
export { partsOfRule, type RoleConfiguration, type RolesConfiguration } from './roles.ts';
