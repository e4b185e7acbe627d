import { index, route, type RouteConfig } from '@react-router/dev/routes';

export default [
  index('./games/entry-route.tsx'),
  route('games', './games/games-route.tsx'),
  route('demo', './games/demo-route.tsx'),
  route('games/:game', './games/game-route.tsx'),
  route(':install', './frame/frame-route.tsx', [
    index('./frame/to-survey.ts'),
    route('survey', './stages/survey/route.tsx'),
    route('folders', './stages/survey/folders/route.tsx'),
    route('log', './stages/survey/log/route.tsx'),
    route('choose', './stages/choose/route.tsx'),
    route('shelf', './stages/shelf/route.tsx'),
    route('order', './stages/order/route.tsx'),
    route('mods', './stages/choose/mods/route.tsx'),
    route('fetch', './stages/fetch/route.tsx'),
    route('assemble', './stages/assemble/route.tsx'),
    route('proof', './stages/proof/route.tsx'),
    route('hold', './stages/hold/route.tsx'),
    route('keepsakes', './stages/keepsakes/route.tsx'),
    route('profiles', './stages/profiles/route.tsx'),
    route('history', './stages/history/route.tsx'),
    route('mend', './stages/mend/route.tsx'),
    route('narrow', './stages/narrow/route.tsx'),
    route('carry', './stages/carry/route.tsx'),
  ]),
] satisfies RouteConfig;
