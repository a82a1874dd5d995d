/** The beat: how often pictures come, and a smaller picture before they stutter. */

const STEPS = [1, 0.75, 0.5, 0.375] as const
/** Pictures a second below which the next smaller size is taken, and above which a larger one is tried again. */
const LEAST = 24
const EASY = 50
const SPAN_MS = 2000

export class Pace {
  private step = 0
  private began = 0
  private count = 0
  /** How often each size was given up; one that was twice is not tried again. */
  private readonly failed = STEPS.map(() => 0)

  /** Told of each picture that was drawn, at a time in milliseconds; whether the picture is smaller from now on. */
  drawn(now: number): boolean {
    if (!this.began || now - this.began > 3 * SPAN_MS) {
      // The first picture, or the first after the page was hidden.
      this.began = now
      this.count = 0
      return false
    }
    this.count++
    const passed = now - this.began
    if (passed < SPAN_MS) return false
    const rate = (this.count * 1000) / passed
    this.began = now
    this.count = 0
    if (rate < LEAST && this.step < STEPS.length - 1) {
      this.failed[this.step] = (this.failed[this.step] ?? 0) + 1
      this.step++
      return true
    }
    if (rate > EASY && this.step > 0 && (this.failed[this.step - 1] ?? 0) < 2) this.step--
    return false
  }

  /** How large the picture is, as a part of the wanted size. */
  get share(): number {
    return STEPS[this.step] ?? 1
  }
}
