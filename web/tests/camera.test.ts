// @vitest-environment jsdom
/** States of the real camera: asked for, refused, stopped, gone. The browser's own devices are stood in for. */
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { lacking, RealCamera, stopCamera } from '../src/camera/camera'
import { canBeTracked, needsFaces, needsHands, needsPerson } from '../src/camera/needs'
import { held } from './store'

class Track extends EventTarget {
  stopped = false
  stop(): void {
    this.stopped = true
  }
}

const made: Track[] = []
let asked: MediaStreamConstraints[]
let answer: () => Promise<unknown>
let ended: string[]

beforeEach(() => {
  made.length = 0
  asked = []
  ended = []
  answer = async () => undefined
  vi.stubGlobal('OffscreenCanvas', class { getContext = () => null }) // prettier-ignore
  vi.spyOn(HTMLMediaElement.prototype, 'play').mockResolvedValue(undefined)
  Object.defineProperty(HTMLMediaElement.prototype, 'srcObject', { value: null, writable: true, configurable: true })
  const getUserMedia = async (wanted: MediaStreamConstraints) => {
    asked.push(wanted)
    await answer()
    const track = new Track()
    made.push(track)
    return { getTracks: () => [track], getVideoTracks: () => [track] }
  }
  Object.defineProperty(navigator, 'mediaDevices', { value: { getUserMedia }, configurable: true })
})

const camera = () => new RealCamera((words) => ended.push(words))

describe('a camera', () => {
  it('of a side is mirrored where it looks at the wearer', async () => {
    const one = camera()
    await one.start(undefined, 'back')
    expect([one.mirrored, (asked[0]?.video as MediaTrackConstraints).facingMode]).toEqual([false, 'environment'])
    await one.start(undefined, 'front')
    expect([one.mirrored, (asked[1]?.video as MediaTrackConstraints).facingMode]).toEqual([true, 'user'])
    expect(made.map((track) => track.stopped)).toEqual([true, false])
  })
  it('by name is asked for exactly', async () => {
    await camera().start('webcam-2')
    expect((asked[0]?.video as MediaTrackConstraints).deviceId).toEqual({ exact: 'webcam-2' })
  })
  it('that is stopped while the browser asks for permission is let go when it comes', async () => {
    const { promise, go } = held()
    answer = () => promise
    const one = camera()
    const starting = one.start()
    one.stop()
    go()
    expect(await starting).toBe(false)
    expect(made.map((track) => track.stopped)).toEqual([true])
  })
  it('takes the place of the one that was asked for before it, whichever the browser allows first', async () => {
    const [first, second] = [held(), held()]
    const waits = [first.promise, second.promise]
    answer = () => waits.shift() ?? Promise.resolve()
    const starts = [camera().start(), camera().start()]
    second.go()
    expect(await starts[1]).toBe(true)
    first.go()
    expect(await starts[0]).toBe(false)
    expect(made.filter((track) => !track.stopped)).toHaveLength(1)
    stopCamera()
    expect(made.every((track) => track.stopped)).toBe(true)
  })
  it('that is stopped while it is asked for and then refused says nothing', async () => {
    const { promise, go } = held()
    answer = async () => {
      await promise
      throw new DOMException('', 'NotAllowedError')
    }
    const starting = camera().start()
    stopCamera()
    go()
    expect(await starting).toBe(false)
  })
  it('that goes away says so', async () => {
    await camera().start()
    made[0]?.dispatchEvent(new Event('ended'))
    expect(ended).toHaveLength(1)
  })
  it.each([
    ['NotAllowedError', /not allowed to use the camera/],
    ['NotFoundError', /no camera/],
    ['NotReadableError', /Another program is using the camera/],
    ['SomethingElse', /could not be started|cannot be started|not start/],
  ])('that is refused with %s says it plainly', async (name, words) => {
    answer = async () => {
      throw new DOMException('', name)
    }
    await expect(camera().start()).rejects.toThrow(words)
  })
  it('without HTTPS there is none to be had', async () => {
    Object.defineProperty(navigator, 'mediaDevices', { value: {}, configurable: true })
    await expect(camera().start()).rejects.toThrow(/HTTPS/)
  })
  it('shows nothing before its first picture', async () => {
    const one = camera()
    await one.start()
    expect(one.seen(540, 960, ['person'])).toBeNull()
  })
})

describe('masks', () => {
  it('say which trackers they take', () => {
    const of = (...names: string[]) => [needsPerson(names), needsFaces(names), needsHands(names)]
    expect(of('person')).toEqual([true, false, false])
    expect(of('region:hands')).toEqual([false, false, true])
    expect(of('region:hair')).toEqual([true, true, false])
    expect(of('region:lips')).toEqual([false, true, false])
    expect(of()).toEqual([false, false, false])
  })
  it('that no tracker gives are named', () => {
    expect(canBeTracked('region:sky')).toBe(false)
    expect(lacking(['person', 'region:sky', 'region:ground'])).toContain('sky, ground')
    expect(lacking(['person', 'region:lips'])).toBe('')
  })
})
