/** What is kept, with its own style: for pages that fetch it when they have started. */
export { default as css } from './keeping.css?inline'
export { Keeping } from './keeping'
