import type { Config } from '@react-router/dev/config';

export default {
  appDirectory: 'app',
  ssr: true,
  // A dozen routes: asking for them one by one would need the server for every first visit.
  routeDiscovery: { mode: 'initial' },
  future: {},
} satisfies Config;
