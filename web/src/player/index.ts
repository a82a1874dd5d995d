/** The player as a file of its own (dist/player/player.js), for exported pages and for checks. */
export { load, Player } from './player'
export { Signals } from './signals'
