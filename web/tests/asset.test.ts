/** What is known of a file is that of the one asked for last. */
import { effectScope, nextTick, ref } from 'vue'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { useAsset } from '../src/features/shelf/useAsset'

const scope = effectScope()
afterEach(() => vi.unstubAllGlobals())

describe('a file', () => {
  it('asked for last is the one that is known, though its answer came first', async () => {
    const answers = new Map<string, (answer: Response) => void>()
    vi.stubGlobal('fetch', (path: string) => new Promise<Response>((resolve) => answers.set(path.split('/').at(-1) ?? '', resolve)))
    const hash = ref<string | null>('first')
    const troubles: unknown[] = []
    const asset = scope.run(() => useAsset(() => hash.value, (error) => troubles.push(error)))
    hash.value = 'second'
    await nextTick()
    answers.get('second')?.(Response.json({ hash: 'second' }))
    await vi.waitFor(() => expect(asset?.value).toEqual({ hash: 'second' }))
    answers.get('first')?.(Response.json({ hash: 'first' }))
    await new Promise((resolve) => setTimeout(resolve, 5))
    expect(asset?.value).toEqual({ hash: 'second' })
    // One that is gone leaves nothing of it, and no answer that comes after it is told of.
    hash.value = 'third'
    await nextTick()
    hash.value = null
    await nextTick()
    answers.get('third')?.(Response.json({ message: 'it is lost' }, { status: 404 }))
    await new Promise((resolve) => setTimeout(resolve, 5))
    expect(asset?.value).toBeNull()
    expect(troubles).toEqual([])
  })
})
