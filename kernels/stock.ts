/** What the stock's kernel offers to `stock/`. */
export { highest } from './highest';
export { keep } from './history';
export { endLoad, loadsTold, tellLoad } from './load';
export { begin, runThrough } from './machine';
export { place, refresh, refreshAll } from './steel';
export { breakOff, isOwed, measure, move, runsOn } from './sweep';
export { above, age, stand, watch } from './watch';
