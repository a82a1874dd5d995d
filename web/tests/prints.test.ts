// @vitest-environment jsdom
/** Which pictures the list shows, and which it has drawn. */
import { effectScope } from 'vue'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import type { ListedEffect } from '../src/api/types'
import { usePrints } from '../src/features/list/usePrints'
import { effect, state } from './made'

const listed = (id: string, revision: number, printed: boolean): ListedEffect => ({ ...state(revision, effect([]), { id }), printed })

let asked: string[] = []
let scope = effectScope()
let answer: (path: string, init: RequestInit) => Promise<Response>

function opened(): ReturnType<typeof usePrints> {
  return scope.run(usePrints) as ReturnType<typeof usePrints>
}

beforeEach(() => {
  vi.useFakeTimers()
  asked = []
  scope = effectScope()
  answer = async () => new Response('picture')
  vi.stubGlobal('fetch', (path: string, init: RequestInit) => {
    asked.push(path)
    return answer(path, init)
  })
})
afterEach(() => {
  scope.stop()
  vi.useRealTimers()
})

it('shows what is drawn, has the others drawn one after another, and meanwhile shows the last', async () => {
  const prints = opened()
  const [a, b, c] = [listed('a', 3, true), listed('b', 5, false), listed('c', 7, false)] as const
  const waiting: ((there: Response) => void)[] = []
  answer = () => new Promise((resolve) => waiting.push(resolve))
  prints.see([a, b, c])
  expect(prints.address(a)).toBe('/api/effects/a/print?revision=3')
  expect(prints.address(b)).toBe('/api/effects/b/print')
  expect(asked).toEqual(['/api/effects/b/print?revision=5'])
  waiting[0]?.(new Response('picture'))
  await vi.advanceTimersByTimeAsync(1)
  expect(prints.address(b)).toBe('/api/effects/b/print?revision=5')
  expect(prints.address(c)).toBe('/api/effects/c/print')
  expect(asked).toEqual(['/api/effects/b/print?revision=5', '/api/effects/c/print?revision=7'])
})

it('has a new state drawn, and shows the one before until that is there', async () => {
  const prints = opened()
  prints.see([listed('a', 3, true)])
  answer = () => new Promise(() => undefined)
  const changed = listed('a', 4, false)
  prints.see([changed])
  expect(asked).toEqual(['/api/effects/a/print?revision=4'])
  expect(prints.address(changed)).toBe('/api/effects/a/print?revision=3')
})

it('asks again where the server has too much to do, and says what cannot be drawn', async () => {
  const prints = opened()
  const [a, b] = [listed('a', 1, false), listed('b', 1, false)] as const
  const refusals = [Response.json({ message: 'too much' }, { status: 503 }), Response.json({ message: 'a file is lost' }, { status: 422 })]
  answer = async () => refusals.shift() ?? new Response('picture')
  prints.see([a, b])
  await vi.advanceTimersByTimeAsync(5000)
  expect(asked).toEqual(['/api/effects/a/print?revision=1', '/api/effects/a/print?revision=1', '/api/effects/b/print?revision=1'])
  expect([...prints.faults]).toEqual([['a', 'a file is lost']])
  expect(prints.address(b)).toBe('/api/effects/b/print?revision=1')
})

it('asks for nothing more when the list is left', async () => {
  const prints = opened()
  let signal: AbortSignal | null | undefined
  answer = (_, init) => {
    signal = init.signal
    return new Promise((_, reject) => init.signal?.addEventListener('abort', () => reject(new Error('aborted'))))
  }
  prints.see([listed('a', 1, false), listed('b', 1, false)])
  scope.stop()
  await vi.advanceTimersByTimeAsync(5000)
  expect(signal?.aborted).toBe(true)
  expect(asked).toEqual(['/api/effects/a/print?revision=1'])
})
