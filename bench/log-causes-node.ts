export { causesIn } from '#core/log-causes';
