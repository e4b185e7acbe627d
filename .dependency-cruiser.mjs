/* Which folder may know which; docs/architecture.md says why. Tests may look inside what they test, and are left out. */
const TESTS = '\\.test\\.ts$|(^|/)testing/|^tests/';
/** Folders of app whose index is their face; those of the interface have a module for each part instead. */
const FACES = 'changes|commands|folders|jobs|places|queries|remote|store|workers';

const rule = (name, comment, from, to) => ({ name, comment, severity: 'error', from, to });

export default {
  forbidden: [
    rule(
      'core-stands-alone',
      'core is pure: no platform, no interface, nothing of the others',
      { path: '^core/' },
      {
        path: '^(app|server|demo|bench|tests)/|^node_modules/(react|react-dom|react-router|idb|@mantine)/',
      },
    ),
    rule(
      'core-has-no-platform',
      'what the platform gives comes in through ports',
      { path: '^core/' },
      { dependencyTypes: ['core'] },
    ),
    rule(
      'core-subjects-by-their-faces',
      'a subject reaches another one by #core/subject',
      { path: '^core/([^/]+)/' },
      {
        path: '^core/',
        pathNot: '^core/$1/|^core/[^/]+/index\\.ts$',
      },
    ),
    rule(
      'core-by-its-faces',
      'core is reached by #core/subject, never inside',
      { path: '^(app|server|demo|bench)/' },
      {
        path: '^core/',
        pathNot: '^core/[^/]+/index\\.ts$',
      },
    ),
    rule(
      'stages-apart',
      'a stage never imports another stage; what two need is in parts',
      { path: '^app/stages/([^/]+)/' },
      {
        path: '^app/stages/',
        pathNot: '^app/stages/$1/',
      },
    ),
    rule(
      'app-by-its-faces',
      'nobody reaches inside a folder that has a face',
      { path: '^app/([^/]+)' },
      {
        path: `^app/(${FACES})/`,
        pathNot: `^app/$1/|^app/(${FACES})/index\\.ts$`,
      },
    ),
    rule(
      'app-knows-no-server',
      'what the two say to each other stands in core',
      { path: '^app/' },
      { path: '^(server|demo|bench|tests)/', pathNot: '^server/stand-ins/outside-world|^server/http/policy' },
    ),
    rule(
      'server-knows-no-app',
      'the server answers whoever asks',
      { path: '^(server|demo)/' },
      { path: '^(app|bench|tests)/' },
    ),
    rule(
      'demo-in-its-place',
      'nothing knows the demo but the stand-ins',
      { path: '^(app|core|server)/', pathNot: '^server/stand-ins/' },
      { path: '^demo/' },
    ),
    {
      ...rule(
        'no-circles',
        'folders that need each other are one folder',
        { path: '^(app|core|server)/' },
        { circular: true },
      ),
      scope: 'folder',
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: `${TESTS}|\\.css$|^virtual:|^scripts/` },
    tsConfig: { fileName: 'tsconfig.json' },
    tsPreCompilationDeps: true,
    enhancedResolveOptions: {
      extensions: ['.ts', '.tsx', '.mjs', '.js'],

      conditionNames: ['import', 'node', 'default', 'types'],
    },
  },
};
