/** The shelf: all material, read once and kept up to date here; files that come in, with progress; and what is dragged off it. */
import { computed, ref, shallowRef, type InjectionKey, type Ref } from 'vue'
import { api } from '../../api/client'
import type { Came, ShelfPiece } from '../../api/types'
import { stemOf } from '../../document/material'
import { t } from '../../words'

/** What a piece is called while it is dragged. */
export const DRAGGED = 'application/x-sun-glaze-piece'
/** So many numbered pictures of one name are one sequence. */
const ROW = 3

const pieces = shallowRef<ShelfPiece[] | null>(null)
const gone = shallowRef<ShelfPiece[]>([])
/** Files that are being read: how many are done of how many, and what could not be read and why. */
const reading = ref<{ done: number; of: number; name: string } | null>(null)
const refused = ref<string[]>([])
let stop: AbortController | null = null

async function refresh(): Promise<void> {
  const [all, deleted] = await Promise.all([api.shelf(), api.shelf(true)])
  pieces.value = all
  gone.value = deleted
}

/** Pictures that are numbered and of one name belong together; all others come one by one. */
export function batches(files: File[]): File[][] {
  const rows = new Map<string, File[]>()
  for (const file of files) {
    const stem = stemOf(file.name)
    if (stem) rows.set(stem, [...(rows.get(stem) ?? []), file])
  }
  const long = [...rows.values()].filter((row) => row.length >= ROW)
  const taken = new Set(long.flat())
  return [...long, ...files.filter((file) => !taken.has(file)).map((file) => [file])]
}

/** Bring files in; those that are refused are told, the others go on. Gives what came. */
async function bring(files: File[]): Promise<Came[]> {
  const all = batches(files)
  const controller = new AbortController()
  stop?.abort()
  stop = controller
  refused.value = []
  const come: Came[] = []
  let done = 0
  try {
    for (const row of all) {
      reading.value = { done, of: files.length, name: row[0]?.name ?? '' }
      try {
        const found = row.length > 1 ? await api.numbered(row, controller.signal) : await api.toShelf(row[0] as File, controller.signal)
        come.push(found)
        refused.value.push(...found.notes.map((note) => `${found.piece.asset.name}: ${note}`))
      } catch (error) {
        if (controller.signal.aborted) break
        refused.value.push(error instanceof Error ? error.message : String(error))
      }
      done += row.length
    }
  } finally {
    if (stop === controller) reading.value = null
    await refresh().catch(() => undefined)
  }
  return come
}

/** Files that were dropped, folders among them opened. */
export async function dropped(transfer: DataTransfer | null): Promise<File[]> {
  const entries = [...(transfer?.items ?? [])].map((item) => item.webkitGetAsEntry?.() ?? null)
  const plain = [...(transfer?.files ?? [])]
  if (!entries.some((entry) => entry?.isDirectory)) return plain
  const found: File[] = []
  const walk = async (entry: FileSystemEntry): Promise<void> => {
    if (entry.isFile) found.push(await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject)))
    else if (entry.isDirectory) {
      const reader = (entry as FileSystemDirectoryEntry).createReader()
      for (;;) {
        const some = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject))
        if (!some.length) break
        for (const one of some) await walk(one)
      }
    }
  }
  for (const entry of entries) if (entry) await walk(entry)
  return found
}

/** The piece that is dragged, where one of the shelf's is. */
export function pieceDragged(transfer: DataTransfer | null): ShelfPiece | null {
  const hash = transfer?.getData(DRAGGED)
  return pieces.value?.find((one) => one.asset.hash === hash) ?? null
}

/** How many files are being read for controls of the open desk, which stay in place as long. */
export const COMING: InjectionKey<Ref<number>> = Symbol('coming')

export function useShelf() {
  if (pieces.value === null) void refresh().catch(() => undefined)
  return {
    pieces,
    gone,
    reading,
    refused,
    refresh,
    bring,
    cancel: () => stop?.abort(),
    told: computed(() => (reading.value ? t('shelf.readOf', { done: reading.value.done, of: reading.value.of, name: reading.value.name }) : '')),
  }
}
