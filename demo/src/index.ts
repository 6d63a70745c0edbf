/** The demo: a PostgreSQL of its own and the Lowmere Navigation in it. */
export {
  startCluster,
  ClusterError,
  type Cluster,
  type ClusterOptions,
} from './cluster/cluster.ts';
export { LossyProxy } from './cluster/lossy-proxy.ts';
export { startPooler, type Pooler, type PoolerOptions } from './cluster/pooler.ts';
export { makeScenario, type ScenarioOptions } from './scenario/make.ts';
export { pictures } from './scenario/pictures.ts';
export { startTraffic, type Traffic, type TrafficOptions } from './traffic.ts';
export { configurationFile } from './scenario/configuration.ts';
export { signInConfiguration } from './scenario/configuration.ts';
export {
  startIdentityProvider,
  type IdentityProvider,
  type IdentityProviderOptions,
} from './identity-provider.ts';
