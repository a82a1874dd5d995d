/** What the states of the review are called. */
import type { Package } from '../../api/types'
import { t } from '../../words'

export const STATES: Record<Package['state'], string> = {
  submitted: t('showcase.submitted'), 'in review': t('showcase.inReview'), taken: t('showcase.taken'), returned: t('showcase.returned'), withdrawn: t('showcase.withdrawn'),
} // prettier-ignore
