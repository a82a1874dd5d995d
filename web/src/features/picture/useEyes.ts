/** Whom and what one looks at in a workbench, for views far below it: the effect, the frame, who sits before the camera, the screen. */
import { inject, provide, type InjectionKey, type Ref } from 'vue'
import type { Effect } from '../../api/types'
import type { Sitting } from '../../camera/standin'
import type { Screen } from './useLooking'

export interface Eyes {
  effect: Ref<Effect | null>
  sitting: Ref<Sitting>
  screen: Ref<Screen>
  frame: () => number
  /** The picture after a layer, or of the camera, small. */
  tile: (stage: string) => HTMLCanvasElement | null
}

const KEY: InjectionKey<Eyes> = Symbol('eyes')

export const provideEyes = (eyes: Eyes): void => provide(KEY, eyes)

export function useEyes(): Eyes {
  const eyes = inject(KEY)
  if (!eyes) throw new Error('useEyes() belongs below a workbench')
  return eyes
}
