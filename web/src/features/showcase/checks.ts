/** Checks before an effect leaves, as they come. */
import type { CheckFound } from '../../api/types'

const ORDER = { stops: 0, look: 1, passed: 2 }

/** Checks with one more, or with another in the place of the same: what stops the effect first, then in the order they came. */
export function withOne(found: CheckFound[], one: CheckFound): CheckFound[] {
  return [...found.filter((other) => other.id !== one.id), one].sort((a, b) => ORDER[a.state] - ORDER[b.state])
}
