/** Which masks a real camera gives, and which trackers they take. What each region is made of stands in sunglaze/core/face/regions.json. */
import regions from '../../../sunglaze/core/face/regions.json'

export const HANDS = 'region:hands'
const drawn = (name: string): { person: boolean } | undefined => (regions as Record<string, { person: boolean }>)[name.replace('region:', '')]

/** Whether a mask can be had of a real camera: the person's by its tracker, others by landmarks. */
export const canBeTracked = (name: string): boolean => name === 'person' || name === HANDS || Boolean(drawn(name))
export const needsFaces = (names: string[]): boolean => names.some(drawn)
export const needsHands = (names: string[]): boolean => names.includes(HANDS)
export const needsPerson = (names: string[]): boolean => names.some((name) => name === 'person' || drawn(name)?.person)
