/** What only some programs need of the player: fetched where one does, so that all others start without it. */
import type { Program } from './player'

export interface Parts {
  solids?: typeof import('./meshes') | undefined
  films?: typeof import('./films') | undefined
  kept?: typeof import('./kept') | undefined
  painting?: typeof import('./painting') | undefined
}

const readsMoments = (program: Program, what: RegExp): boolean => program.signals.steps.some(([op, name]) => op === 'moment' && what.test(String(name)))

/** Whether signals read faces that are held steady. */
export const holdsFaces = (program: Program): boolean => readsMoments(program, /^held:/)

/** Whether a program needs the faces of moments. */
export const readsFaces = (program: Program): boolean => readsMoments(program, /^(face|held):/) || (program.meshes ?? []).some((mesh) => mesh.kind === 'face')

export async function partsOf(program: Program): Promise<Parts> {
  const drawn = program.pictures.some(({ painting }) => painting)
  const [solids, films, kept, painting] = await Promise.all([
    program.meshes?.length || holdsFaces(program) ? import('./meshes') : undefined,
    program.uploads?.length || program.copies?.length ? import('./films') : undefined,
    program.passes.some(({ target }) => target?.keeps) ? import('./kept') : undefined,
    drawn ? import('./painting') : undefined,
  ])
  return { solids, films, kept, painting }
}
