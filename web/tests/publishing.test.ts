// @vitest-environment jsdom
/** Publishing goes on whatever page is open: how far it is, its end, and what cancels it. */
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { api, Refusal } from '../src/api/client'
import type { Package } from '../src/api/types'
import { publishEffect, usePublishing } from '../src/features/showcase/usePublishing'

const ready = async (): Promise<void> => undefined
let answer: (made: Package) => void
let refuse: (error: Error) => void

beforeEach(() => {
  vi.useFakeTimers()
  vi.spyOn(api, 'publish').mockImplementation(
    (_, signal) =>
      new Promise((resolve, reject) => {
        ;[answer, refuse] = [resolve, reject]
        signal?.addEventListener('abort', () => reject(signal.reason))
      }),
  )
})
afterEach(() => {
  vi.restoreAllMocks()
  vi.useRealTimers()
})

it('is told by the server, whoever looks, until it is answered', async () => {
  vi.spyOn(api, 'publishing').mockResolvedValueOnce({ share: 0.25 }).mockRejectedValueOnce(new Error('away')).mockResolvedValue({ share: null })
  const one = usePublishing('reef').publish(ready)
  const other = usePublishing('reef')
  expect(other.share.value).toBe(0)
  expect(usePublishing('pier').share.value).toBeNull()
  for (let looks = 0; looks < 3; looks++) {
    await vi.advanceTimersByTimeAsync(500)
    // An answer that fails, or comes as it ends, takes nothing back.
    expect(other.share.value).toBe(0.25)
  }
  answer({ name: 'Reef', number: 2 } as Package)
  expect(await one).toMatchObject({ name: 'Reef' })
  expect(other.share.value).toBeNull()
})

it('is cancelled from any page, while what goes before it is waited for, too', async () => {
  vi.spyOn(api, 'publishing').mockResolvedValue({ share: null })
  const going = publishEffect('reef')
  await vi.advanceTimersByTimeAsync(0)
  usePublishing('reef').cancel()
  expect(await going).toBeNull()
  expect(usePublishing('reef').share.value).toBeNull()

  let through = (): void => undefined
  const early = publishEffect('reef', () => new Promise((resolve) => (through = resolve)))
  usePublishing('reef').cancel()
  through()
  expect(await early).toBeNull()
  expect(api.publish).toHaveBeenCalledTimes(1)
})

it('is said to have failed, and the page asks before it is left while it goes on', async () => {
  vi.spyOn(api, 'publishing').mockResolvedValue({ share: null })
  const leaves = (): boolean => !window.dispatchEvent(new Event('beforeunload', { cancelable: true }))
  const going = publishEffect('reef')
  await vi.advanceTimersByTimeAsync(0)
  expect(leaves()).toBe(true)
  refuse(new Refusal('this takes more than 90 s', 503))
  await expect(going).rejects.toThrow('this takes more than 90 s')
  expect(leaves()).toBe(false)
})

it('is not begun twice', async () => {
  vi.spyOn(api, 'publishing').mockResolvedValue({ share: null })
  const going = publishEffect('reef')
  expect(await publishEffect('reef')).toBeNull()
  answer({ name: 'Reef', number: 1 } as Package)
  expect(await going).toMatchObject({ number: 1 })
  expect(api.publish).toHaveBeenCalledTimes(1)
})
