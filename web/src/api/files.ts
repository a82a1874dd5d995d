/** Files that leave: an effect in one of its forms, or what the page itself has made. */
import { Refusal } from './client'
import { t } from '../words'

export type Form = 'package' | 'document' | 'page'

/** Hand a file to whoever sits there. */
export function save(name: string, file: Blob): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(file)
  link.download = name
  link.click()
  URL.revokeObjectURL(link.href)
}

/** What was chosen in a field for files, which takes the same ones again afterwards. */
export function chosenFiles(event: Event): File[] {
  const field = event.target as HTMLInputElement
  const files = [...(field.files ?? [])]
  field.value = ''
  return files
}

export type GradeForm = 'cube' | 'clf' | 'strip' | 'grid' | 'hald' | 'cdl'

/** Download an effect. */
export const give = (id: string, form: Form): Promise<void> => fetched(`/api/effects/${id}/${form}`, `effect.${form}`)

/** Download the grade that an effect's layers make, up to one of them. */
export const giveGrade = (id: string, form: GradeForm, size: number, to: string): Promise<void> =>
  fetched(`/api/effects/${id}/grade/file?form=${form}&size=${size}${to ? `&to=${to}` : ''}`, `grade.${form}`)

/** Download a clip that was filmed. */
export const giveClip = (job: string, name: string): Promise<void> => fetched(`/api/clips/${job}/file?name=${encodeURIComponent(name)}`, name)

/** A refusal comes in the server's words rather than as a file. */
async function fetched(address: string, otherwise: string): Promise<void> {
  const answer = await fetch(address)
  if (!answer.ok) {
    const words = ((await answer.json().catch(() => ({}))) as { message?: string }).message
    throw new Refusal(t('api.notExported', { words: words ?? t('api.theServerRefusedWith', { status: answer.status }) }), answer.status)
  }
  const name = /filename="([^"]+)"/.exec(answer.headers.get('Content-Disposition') ?? '')?.[1]
  save(name ?? otherwise, await answer.blob())
}
