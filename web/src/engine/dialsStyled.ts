/** Dials with their own style: for pages that fetch them where an effect has some. */
export { default as css } from './dials.css?inline'
export { Dials, dialsOf, photoOf } from './dials'
