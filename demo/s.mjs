import { startCluster } from '@ephoros/demo';
const c = await startCluster({ folder: '/work/main/.ephoros/bench-200000', port: 54820, settings: {shared_buffers:'512MB'} });
console.log(c.port); setInterval(()=>{},1e6);
