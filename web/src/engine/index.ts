/** The player as a file of its own (dist/player/player.js), for exported pages and for checks. */
export { faceOf } from './faces'
export { Loaded, Packed } from './films'
export { Host } from './host'
export { readMoment } from './moment'
export { painted } from './painting'
export { load, Player } from './player'
export { Rehearsal } from './rehearsal'
export { Signals } from './signals'
