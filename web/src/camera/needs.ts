/** Which masks a real camera gives, and which trackers they take: regions by name, and whether only the person counts. */
import regions from '../../../sunglaze/core/face/regions.json'

export const HANDS = 'region:hands'
const drawn = (name: string): boolean | undefined => (regions as Record<string, boolean>)[name.replace('region:', '')]

/** Whether a mask can be had of a real camera: the person's by its tracker, others by landmarks. */
export const canBeTracked = (name: string): boolean => name === 'person' || name === HANDS || drawn(name) !== undefined
export const needsFaces = (names: string[]): boolean => names.some((name) => drawn(name) !== undefined)
export const needsHands = (names: string[]): boolean => names.includes(HANDS)
export const needsPerson = (names: string[]): boolean => names.some((name) => name === 'person' || drawn(name))
