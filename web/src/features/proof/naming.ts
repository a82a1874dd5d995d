/** What axes and figures of a proof sheet are called. */
import type { Axis } from './useProof'
import { t } from '../../words'

export const AXIS_NAMES: Record<Axis, string> = { who: t('proof.who'), light: t('proof.light'), screen: t('proof.screen'), moment: t('proof.moment') }
export const WAY_NAMES = { down: t('proof.down'), across: t('proof.across') }
/** Of a figure its name, and a word for beside a print. */
export const FIGURES: Record<string, [string, string]> = {
  shift: [t('proof.shift'), t('proof.shiftShort')],
  clipped: [t('proof.clipped'), t('proof.clippedShort')],
  contrast: [t('proof.contrast'), t('proof.contrastShort')],
  eyes: [t('proof.eyes'), t('proof.eyesShort')],
  border: [t('proof.border'), t('proof.borderShort')],
  flashes: [t('proof.flashes'), t('proof.flashesShort')],
}
