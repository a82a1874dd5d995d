/** Requests to the server. A refusal is thrown as `Refusal` with the server's plain words. */
import type {
  Asset,
  Came,
  Cast,
  Catalogue,
  CellMade,
  CheckFound,
  CheckLine,
  ClipRequest,
  ColourReading,
  CompareRequest,
  Cost,
  CutJob,
  CutRequest,
  DeletedEffect,
  Effect,
  EffectState,
  ListedEffect,
  FitRequest,
  Fitted,
  FormWeight,
  GpuProgram,
  Grade,
  HistoryStep,
  Layer,
  Listing,
  ListingState,
  Package,
  PhonesState,
  PreviewRequest,
  ProfileKind,
  ProofChoices,
  ProofPlace,
  ProofSheet,
  ProofState,
  Recipe,
  RecipeFile,
  RecipePreviews,
  SaveAnswer,
  SavingShown,
  Sessions,
  SheetWords,
  ShelfPiece,
  Shown,
  Tracking,
  WornBy,
} from './types'
import { t } from '../words'

export class Refusal extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message)
  }
}

export const UNREACHABLE = 0
/** From this status on it is the server that fails, not what it was asked. */
export const SERVER_FAILS = 500

/** Bytes that browsers still send for a page that is gone (Fetch standard: 64 KiB in all). */
const MOST_OUTLIVING = 60_000
const small = (sent: string, beside = 0): boolean => new Blob([sent]).size + beside < MOST_OUTLIVING

/** `outlives`: it is sent to its end also where the page goes away meanwhile, as far as browsers do so. */
async function request<T>(method: string, path: string, body?: unknown, signal?: AbortSignal, outlives = false): Promise<T> {
  const form = body instanceof FormData
  const sent = body === undefined ? null : form ? body : JSON.stringify(body)
  const answer = await asked(method, path, {
    body: sent,
    signal: signal ?? null,
    keepalive: outlives && typeof sent === 'string' && small(sent),
    headers: form || sent === null ? {} : { 'Content-Type': 'application/json' },
  })
  if (answer.status === 204) return undefined as T
  return (await answer.json().catch(() => ({}))) as T
}

/** The server's answer where it takes what it is asked. */
async function asked(method: string, path: string, how: RequestInit): Promise<Response> {
  let answer: Response
  try {
    answer = await fetch(`/api${path}`, { method, ...how })
  } catch (error) {
    if (how.signal?.aborted) throw error
    throw new Refusal(t('api.sunGlazeDoesNotAnswerIs'), UNREACHABLE)
  }
  if (answer.ok) return answer
  const { message } = (await answer.json().catch(() => ({}))) as { message?: string }
  throw new Refusal(message ?? t('api.theServerRefusedWithAndGave', { status: answer.status }), answer.status)
}

/** Checks that come line by line. */
async function checks(path: string, found: (one: CheckFound) => void, signal?: AbortSignal): Promise<void> {
  const answer = await asked('GET', path, signal === undefined ? {} : { signal })
  const reader = answer.body?.pipeThrough(new TextDecoderStream()).getReader()
  let text = ''
  for (let part = await reader?.read(); part && !part.done; part = await reader?.read()) {
    const lines = (text + part.value).split('\n')
    text = lines.pop() ?? ''
    for (const line of lines) {
      const { check, message } = JSON.parse(line) as CheckLine
      if (message) throw new Refusal(message, SERVER_FAILS)
      if (check) found(check)
    }
  }
}

function upload<T = Asset>(path: string, files: File | File[], signal?: AbortSignal): Promise<T> {
  const form = new FormData()
  for (const file of Array.isArray(files) ? files : [files]) form.append('file', file)
  return request('POST', path, form, signal)
}

export const api = {
  catalogue: () => request<Catalogue>('GET', '/catalogue'),
  effects: () => request<ListedEffect[]>('GET', '/effects'),
  /** Have an effect's picture drawn; the browser keeps it. */
  print: (id: string, revision: number, signal: AbortSignal) => request<unknown>('GET', `/effects/${id}/print?revision=${revision}`, undefined, signal),
  deleted: () => request<DeletedEffect[]>('GET', '/effects/deleted'),
  create: () => request<EffectState>('POST', '/effects', {}),
  effect: (id: string) => request<EffectState>('GET', `/effects/${id}`),
  head: (id: string) => request<number>('GET', `/effects/${id}/head`),
  save: (id: string, base: number, effect: Effect, gesture: string) =>
    request<SaveAnswer>('POST', `/effects/${id}/revisions`, { base, effect, gesture }, undefined, true),
  /** Whether an effect is still saved where the page goes away meanwhile. */
  outlives: (effect: Effect): boolean => small(JSON.stringify(effect), 2000),
  undo: (id: string) => request<EffectState>('POST', `/effects/${id}/undo`),
  redo: (id: string) => request<EffectState>('POST', `/effects/${id}/redo`),
  rename: (id: string, name: string) => request<EffectState>('POST', `/effects/${id}/name`, { name }),
  duplicate: (id: string) => request<EffectState>('POST', `/effects/${id}/duplicate`),
  remove: (id: string) => request<undefined>('DELETE', `/effects/${id}`),
  restore: (id: string) => request<EffectState>('POST', `/effects/${id}/restore`),
  history: (id: string) => request<HistoryStep[]>('GET', `/effects/${id}/history`),
  revision: (id: string, revision: number) => request<Effect>('GET', `/effects/${id}/revisions/${revision}`),
  nameTake: (id: string, revision: number, name: string | null) =>
    request<undefined>('POST', `/effects/${id}/revisions/${revision}/take`, { name }),
  goBackTo: (id: string, revision: number) => request<EffectState>('POST', `/effects/${id}/revisions/${revision}/restore`),
  cast: () => request<Cast>('GET', '/cast'),
  driveRecipe: (kind: string) => request<Recipe>('GET', `/drives/${kind}/recipe`),
  recipeOf: (kind: string) => request<Recipe>('GET', `/layers/${kind}/recipe`),
  cost: (kind: string) => request<Cost>('GET', `/layers/${kind}/cost`),
  previews: (asked: PreviewRequest) => request<RecipePreviews>('POST', '/recipes/preview', asked),
  everybody: (layer: Layer, light: string) => request<WornBy[]>('POST', `/layers/everybody?light=${light}`, layer),
  savingBeside: (hash: string, asked: CompareRequest) => request<SavingShown>('POST', `/assets/${hash}/beside`, asked),
  judging: (layer: Layer) => request<ColourReading | null>('POST', '/layers/judging', layer),
  importEffect: (file: File) => upload<EffectState>('/effects/import', file),
  importRecipe: (file: File) => upload<RecipeFile>('/recipes/import', file),
  materialx: (recipe: Recipe) => request<RecipeFile>('POST', '/recipes/materialx', recipe),
  addLookup: (file: File) => upload('/lookups', file),
  addPicture: (file: File) => upload('/pictures', file),
  addFootage: (file: File) => upload('/footage', file),
  profiles: () => request<ProfileKind[]>('GET', '/profiles'),
  /** Checks as they are made. */
  preflight: (id: string, profile: string, found: (one: CheckFound) => void, signal?: AbortSignal) => checks(`/effects/${id}/preflight?profile=${profile}`, found, signal),
  proofChoices: () => request<ProofChoices>('GET', '/proof'),
  proofCell: (id: string, place: ProofPlace, state: ProofState, signal: AbortSignal) => request<CellMade>('POST', `/effects/${id}/proof/cell`, { place, state }, signal),
  proofWords: (id: string, sheet: ProofSheet, state: ProofState) => request<SheetWords>('POST', `/effects/${id}/proof/words`, { sheet, state }),
  tracking: (hash: string, hands: boolean) => request<Tracking>('GET', `/footage/${hash}/tracking${hands ? '?hands=true' : ''}`),
  async footagePicture(hash: string, number: number): Promise<Blob> {
    const answer = await fetch(`/api/footage/${hash}/pictures/${number}.jpg`)
    if (!answer.ok) throw new Refusal(t('api.pictureOfTheClipCannotBe', { number }), answer.status)
    return answer.blob()
  },
  putTrack: (hash: string, number: number, mask: string, faces: number[][][], hands: number[][][] | null) =>
    request<undefined>('PUT', `/footage/${hash}/tracks/${number}`, { mask, faces, hands }),
  textSize: (text: unknown) => request<{ width: number; height: number }>('POST', '/texts/size', text),
  grade: (id: string, size: number, to: string) => request<Grade>('GET', `/effects/${id}/grade?size=${size}${to ? `&to=${to}` : ''}`),
  asset: (hash: string) => request<Asset>('GET', `/assets/${hash}`),
  shelf: (deleted = false) => request<ShelfPiece[]>('GET', `/shelf${deleted ? '?deleted=true' : ''}`),
  toShelf: (file: File, signal?: AbortSignal) => upload<Came>('/shelf', file, signal),
  numbered: (files: File[], signal?: AbortSignal) => upload<Came>('/shelf/numbered', files, signal),
  keepGroup: (recipe: Recipe) => request<Asset>('POST', '/shelf/groups', recipe),
  keptGroup: (hash: string) => request<Recipe>('GET', `/shelf/groups/${hash}`),
  clearUnused: () => request<string[]>('POST', '/shelf/clear'),
  renameAsset: (hash: string, name: string) => request<Asset>('PATCH', `/assets/${hash}`, { name }),
  takeOff: (hash: string) => request<undefined>('DELETE', `/assets/${hash}`),
  putBack: (hash: string) => request<Asset>('POST', `/assets/${hash}/restore`),
  replaceEverywhere: (hash: string, by: string) => request<EffectState[]>('POST', `/assets/${hash}/replace`, { by }),
  cut: (clip: string, how: CutRequest) => request<CutJob>('POST', `/clips/${clip}/cut`, how),
  weigh: (hash: string) => request<CutJob>('POST', `/assets/${hash}/weigh`),
  saveAs: (hash: string, form: FormWeight['form']) => request<CutJob>('POST', `/assets/${hash}/save`, { form }),
  fit: (asked: FitRequest) => request<Fitted>('POST', '/fit', asked),
  film: (id: string, how: ClipRequest) => request<CutJob>('POST', `/effects/${id}/clips`, how),
  cutting: (job: string) => request<CutJob>('GET', `/cuts/${job}`),
  cancelCut: (job: string) => request<undefined>('DELETE', `/cuts/${job}`),
  program: (effect: Effect, signal: AbortSignal) => request<GpuProgram>('POST', '/programs', effect, signal),
  sessions: () => request<Sessions>('GET', '/sessions'),
  endSession: (name: string) => request<undefined>('DELETE', `/sessions/${name}`),
  phones: () => request<PhonesState>('GET', '/phones'),
  openToPhones: (open: boolean) => request<PhonesState>('POST', '/phones', { open }),
  listing: (id: string) => request<ListingState>('GET', `/effects/${id}/listing`),
  putListing: (id: string, listing: Listing) => request<undefined>('PUT', `/effects/${id}/listing`, listing),
  icon: (id: string, at: Listing['icon']) => request<{ icon: string }>('POST', `/effects/${id}/icon`, at),
  publish: (id: string, signal?: AbortSignal) => request<Package>('POST', `/effects/${id}/publish`, undefined, signal),
  publishing: (id: string) => request<{ share: number | null }>('GET', `/effects/${id}/publishing`),
  packages: () => request<Package[]>('GET', '/packages'),
  package: (code: string) => request<Package>('GET', `/packages/${code}`),
  showcase: () => request<Shown[]>('GET', '/showcase'),
  shown: (code: string, number?: number) => request<Shown>('GET', `/showcase/${code}${number ? `?number=${number}` : ''}`),
  review: (code: string, state: Package['state'], reason = '') => request<Package>('POST', `/packages/${code}/review`, { state, reason }),
  putVersionBack: (code: string, number: number) => request<Package>('POST', `/packages/${code}/versions/${number}`),
  checkPackage: (code: string, found: (one: CheckFound) => void, signal?: AbortSignal) => checks(`/packages/${code}/preflight`, found, signal),
  count: (code: string, what: 'opens' | 'tries') => request<undefined>('POST', `/packages/${code}/count/${what}`),
  withdraw: (code: string) => request<undefined>('DELETE', `/packages/${code}`),
}
