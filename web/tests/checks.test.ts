/** Checks as they come, line by line. */
import { afterEach, expect, it, vi } from 'vitest'
import { api, Refusal } from '../src/api/client'
import type { CheckFound } from '../src/api/types'
import { withOne } from '../src/features/showcase/checks'

const check = (id: string, state: CheckFound['state'], words = ''): CheckFound => ({ id, state, words, title: id, layer: null, weighs: false, mend: null, strip: null })
const line = (told: object): string => `${JSON.stringify(told)}\n`

/** An answer in pieces that end anywhere. */
function answer(text: string, at: number[]): void {
  const cuts = [0, ...at, text.length]
  const pieces = cuts.slice(1).map((end, n) => new TextEncoder().encode(text.slice(cuts[n], end)))
  const body = new ReadableStream({
    start: (out) => {
      for (const piece of pieces) out.enqueue(piece)
      out.close()
    },
  })
  vi.stubGlobal('fetch', async () => new Response(body))
}
afterEach(() => vi.unstubAllGlobals())

it('are told one by one, wherever the answer was cut', async () => {
  const first = line({ check: check('name', 'passed'), message: null })
  const text = first + line({ check: check('weight', 'stops', 'schön schwer: 5 MB'), message: null })
  for (const at of [[], [1], [10, first.length], [first.length + 3]]) {
    answer(text, at)
    const found: string[] = []
    await api.preflight('e', 'web', (one) => found.push(`${one.id} ${one.words}`))
    expect(found).toEqual(['name ', 'weight schön schwer: 5 MB'])
  }
})

it('end with the words of what went wrong', async () => {
  answer(line({ check: check('name', 'passed'), message: null }) + line({ check: null, message: 'this takes too long' }), [])
  const found: CheckFound[] = []
  await expect(api.preflight('e', 'web', (one) => found.push(one))).rejects.toThrow(new Refusal('this takes too long', 500))
  expect(found.map((one) => one.id)).toEqual(['name'])
})

it('stand with what stops the effect first, each once', () => {
  const come = [check('a', 'passed'), check('b', 'look'), check('c', 'stops'), check('d', 'look'), check('b', 'stops')]
  expect(come.reduce(withOne, [] as CheckFound[]).map((one) => one.id)).toEqual(['c', 'b', 'd', 'a'])
})
