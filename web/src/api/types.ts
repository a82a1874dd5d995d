/** Names for the server's types (schema.generated.ts is made from its OpenAPI). What has a default there is always sent. */
import type { Dial } from '../engine/dials'
import type { RehearsalData } from '../engine/rehearsal'
import type { components } from './schema.generated'

type Schemas = components['schemas']

export type Layout = 'strip' | 'grid' | 'hald'
/** A lookup asset, and its layout where the artist said otherwise than what was found. */
export interface LookupRef {
  asset: string
  layout?: Layout | null
}
export type Plain = Schemas['PortKind']['default']
export type RecipeNode = Required<Schemas['RecipeNode']>
export type RecipeInput = Required<Schemas['RecipeInput']>
export interface Recipe extends Omit<Required<Schemas['Recipe']>, 'nodes' | 'inputs' | 'groups' | 'result' | 'handles'> {
  nodes: RecipeNode[]
  handles: Handle[]
  inputs: RecipeInput[]
  groups: Record<string, Recipe>
  result: string | null
}
export type LayerMask = Required<Schemas['LayerMask']>
/** `recipe` where its kind is the artist's own. */
export type Drive = Omit<Required<Schemas['Drive']>, 'recipe'> & { recipe: Recipe | null }
export type Cue = Omit<Required<Schemas['Cue']>, 'recipe'> & { recipe: Recipe | null }
export interface Layer extends Omit<Required<Schemas['Layer']>, 'recipe' | 'mask' | 'drives'> {
  drives: Record<string, Drive>
  recipe: Recipe | null
  mask: LayerMask | null
}
export type NodeKind = Omit<Schemas['NodeKind'], 'handles'> & { handles: Handle[] }
export type MaskKind = Omit<Schemas['MaskKind'], 'handles'> & { handles: Handle[] }
export type Fault = Required<Schemas['Fault']>
export type Cost = Schemas['Cost']
export type RecipePreviews = Omit<Schemas['RecipePreviews'], 'faults'> & { faults: Fault[] }
export type RecipeFile = Omit<Required<Schemas['RecipeFile']>, 'recipe'> & { recipe: Recipe | null }
export type HistoryStep = Schemas['HistoryStep']
export type Control = Schemas['PortKind']
export type DriveKind = Schemas['DriveKind']
/** `of`: the control whose drive it belongs to, or the node, cue or dial. `layer` is empty for cues and dials, and a group's id for its drives. */
export interface Address {
  layer: string
  part: 'layer' | 'control' | 'mask' | 'drive' | 'node' | 'cue' | 'dial'
  name: string
  of: string
}
export type Handle = Omit<Required<Schemas['Handle']>, 'shape'> & { shape: Required<NonNullable<Schemas['Handle']['shape']>> | null }
export type LayerKind = Omit<Schemas['LayerKind'], 'handles'> & { handles: Handle[] }
export type CheckFound = Schemas['CheckFound']
export type CheckLine = Schemas['CheckLine']
export type ProfileKind = Schemas['ProfileKind']
export type ProofPlace = Required<Schemas['Place']>
export type ProofSheet = Required<Schemas['Sheet']>
export type ProofState = Schemas['State']
export type ProofChoices = Omit<Schemas['ProofChoices'], 'presets'> & { presets: { key: string; title: string; sheet: ProofSheet }[] }
export type ProofFigures = Schemas['Figures']
export type CellMade = Schemas['CellMade']
export type SheetWords = Omit<Schemas['SheetWords'], 'said'> & { said: Required<Schemas['Said']>[] }
export type Cast = Schemas['Cast']
export type Sessions = Schemas['Sessions']
export type PhonesState = Schemas['PhonesState']
export type Tracking = Schemas['Tracking']
export type Catalogue = Omit<Schemas['Catalogue'], 'layers' | 'masks' | 'nodes'> & { layers: LayerKind[]; masks: MaskKind[]; nodes: NodeKind[] }
export type Grade = Schemas['Grade']
export type GpuProgram = Schemas['GpuProgram']
export type LayerGroup = Omit<Required<Schemas['LayerGroup']>, 'drives'> & { drives: Record<string, Drive> }
export type Effect = Omit<Required<Schemas['Effect']>, 'layers' | 'groups' | 'cues' | 'dials' | 'rehearsal'> & {
  layers: Layer[]
  groups: LayerGroup[]
  cues: Cue[]
  dials: Dial[]
  rehearsal: RehearsalData | null
}
export type EffectState = Omit<Schemas['EffectState'], 'effect'> & { effect: Effect }
export type ListedEffect = EffectState & { printed: boolean }
export type DeletedEffect = Schemas['DeletedEffect']
export type SaveAnswer = Omit<Schemas['SaveAnswer'], 'state'> & { state: EffectState }
export type Asset = Schemas['Asset']
export type LookupFacts = Schemas['LookupFacts']
export type ColourReading = Schemas['ColourReading']
export type WornBy = Schemas['WornBy']
export type PreviewRequest = Partial<Omit<Schemas['PreviewRequest'], 'effect' | 'layer'>> & { effect: Effect; layer: string }
export type Texts = Required<Schemas['Texts']>
export type Listing = Omit<Required<Schemas['Listing']>, 'texts' | 'icon' | 'clip'> & {
  texts: Texts[]
  icon: Omit<Required<Schemas['IconAt']>, 'seen'> & { seen: Required<Schemas['Seen']> }
  clip: (Omit<Required<Schemas['ClipAt']>, 'seen'> & { seen: Required<Schemas['Seen']> }) | null
}
export type ListingState = Omit<Schemas['ListingState'], 'listing'> & { listing: Listing }
export type Package = Omit<Schemas['Package'], 'listing'> & { listing: Listing | null }
/** A published effect as visitors see it. */
export type Shown = Omit<Schemas['Shown'], 'listing'> & { listing: Listing | null }
export type ShelfPiece = Schemas['ShelfPiece']
export type ShelfKind = ShelfPiece['kind']
export type Came = Schemas['Came']
export type CutRequest = Partial<Schemas['CutRequest']>
export type CutJob = Schemas['CutJob']
export type ClipRequest = Partial<Schemas['ClipRequest']>
export type FormWeight = Schemas['FormWeight']
export type CompareRequest = Partial<Omit<Schemas['CompareRequest'], 'effect'>> & { effect: Effect }
export type SavingShown = Schemas['SavingShown']
export type Fitted = Schemas['Fitted']
export type FitRequest = Schemas['FitRequest']
