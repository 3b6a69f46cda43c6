import { z } from 'zod'
import { FINDING_CODES } from '#core/findings/finding'
import { FIX_CODES } from '#core/fixes/fix'
import { TILINGS } from '#core/material/open-pbr'
import { MAP_ROLES } from '#core/material/texture-set'
import { ITEM_KINDS } from '#core/standard/categories'
import { idListSchema } from './id-list'
import { factsSchema, findingSchema } from './items.contract'
import { verdictSchema } from './standard.contract'

/**
 * identical: every file is there already, to the pixel; newerFiles: another state of an item that is there; nearDuplicate: looks nearly
 * the same under another name; sameName: something else of this name.
 */
export const CONFLICT_KINDS = ['identical', 'newerFiles', 'nearDuplicate', 'sameName'] as const
export type ConflictKind = (typeof CONFLICT_KINDS)[number]

/** keepBoth: an item of its own; newVersion: the next version of the one that is there; link: nothing is accepted, the one there stands for it. */
export const DECISIONS = ['keepBoth', 'newVersion', 'link'] as const
export type Decision = (typeof DECISIONS)[number]

export const newBatchSchema = z.object({
  library: z.string(),
  title: z.string().trim().min(1, 'Give the batch a title.').max(120),
  maker: z.string().trim().max(120).default(''),
  licence: z.string().trim().max(120).default(''),
  /** A delivery is sorted into items; a scene is only looked at, and stands in no list of deliveries. */
  purpose: z.enum(['delivery', 'scene']).default('delivery'),
})
export type NewBatch = z.input<typeof newBatchSchema>

export const batchSummarySchema = z.object({
  id: z.number(),
  title: z.string(),
  library: z.string(),
  maker: z.string(),
  licence: z.string(),
  state: z.enum(['receiving', 'sorting', 'open', 'failed']),
  /** Why it failed. */
  message: z.string().nullable(),
  person: z.string(),
  createdAt: z.string(),
  /** How many files are on their way, of a batch that is fetched from a feed. */
  expectedFiles: z.number().nullable(),
  files: z.number(),
  bytes: z.number(),
  failed: z.number(),
  waiting: z.number(),
  accepted: z.number(),
  /** Addresses of the first pictures of what is in it. */
  covers: z.array(z.string()),
})
export type BatchSummary = z.infer<typeof batchSummarySchema>

/** Everything of a large delivery at once. */
const rowIdsSchema = z.array(z.number().int()).min(1).max(20_000)

export const batchItemSchema = verdictSchema.extend({
  id: z.number(),
  kind: z.enum(ITEM_KINDS),
  name: z.string(),
  category: z.string(),
  categoryConfidence: z.number(),
  /** What speaks for categories, the heaviest first: a word of the name, of the folder, what was measured, or what the maker sent before. */
  votes: z.array(
    z.object({
      category: z.string(),
      weight: z.number(),
      from: z.enum(['name', 'folder', 'measured', 'maker']),
      what: z.string(),
    }),
  ),
  /** Where the delivery itself files it. */
  sourceFolder: z.string(),
  /** Words that it will be found by: the delivery's or a person's, and what was read from its name, folders, place and measures. */
  tags: z.array(z.string()),
  uses: z.array(z.string()),
  /** Facts that a person gave. */
  givenFacts: factsSchema,
  widthMm: z.number().nullable(),
  tiling: z.enum(TILINGS),
  needsWidth: z.boolean(),
  state: z.enum(['measuring', 'ready', 'failed', 'accepted', 'setAside']),
  message: z.string().nullable(),
  figure: z.string(),
  facts: factsSchema,
  findings: z.array(findingSchema),
  /** Fixes that somebody chose. */
  fixes: z.array(z.object({ code: z.enum(FIX_CODES), finding: z.enum(FINDING_CODES), subject: z.string().nullable() })),
  files: z.array(z.object({ path: z.string(), role: z.string(), url: z.string() })),
  preview: z.string().nullable(),
  /** Under which its rendering is told of. */
  inputKey: z.string(),
  itemCode: z.string().nullable(),
  /** What the library holds that this may be. */
  conflict: z
    .object({
      kind: z.enum(CONFLICT_KINDS),
      code: z.string(),
      name: z.string(),
      preview: z.string().nullable(),
      differentBits: z.number().nullable(),
      /** Another name for the row, where the one it has is taken by something else. */
      otherName: z.string().nullable(),
    })
    .nullable(),
  /** What is to become of it: what somebody decided, else what is usual for such a conflict. */
  decision: z.enum(DECISIONS).nullable(),
  /** Name of another row that holds the same; accepted after it, this one is linked to what that one became. */
  twinOf: z.string().nullable(),
})
export type BatchItem = z.infer<typeof batchItemSchema>

export const batchFileSchema = z.object({
  path: z.string(),
  size: z.number(),
  outcome: z.enum(['received', 'unpacked', 'inItem', 'leftOver', 'failed']),
  code: z.string().nullable(),
  message: z.string().nullable(),
})
export type BatchFile = z.infer<typeof batchFileSchema>

/** One of the delivery's own source folders, and the house category it seems to be. */
export const sourceFolderViewSchema = z.object({
  sourceFolder: z.string(),
  kind: z.enum(ITEM_KINDS),
  /** Rows in it that are not accepted, and how many of them stand in another category. */
  rows: z.number(),
  astray: z.number(),
  /** Null where too little speaks for any. */
  category: z.string().nullable(),
  confidence: z.number(),
  reason: z.enum(['remembered', 'content', 'words']),
})
export type SourceFolderView = z.infer<typeof sourceFolderViewSchema>

export const mapSourceFolderSchema = z.object({ sourceFolder: z.string(), kind: z.enum(ITEM_KINDS), category: z.string() })
export type MapSourceFolder = z.infer<typeof mapSourceFolderSchema>

export const batchSchema = batchSummarySchema.extend({
  mayEdit: z.boolean(),
  sourceFolders: z.array(sourceFolderViewSchema),
  /** Rows that are still being measured. */
  measuring: z.number(),
  /** Ids of its rows, by category and name. */
  rowIds: z.array(z.number()),
  /** The first of the files that belong to no row, and how many there are. */
  notInItems: z.array(batchFileSchema),
  notInItemsCount: z.number(),
})
export type Batch = z.infer<typeof batchSchema>

/** Rows by their ids, separated by commas. */
export const rowsQuerySchema = z.object({ ids: idListSchema })

/** Facts a person gives; applied to one or many rows. */
export const editBatchItemsSchema = z.object({
  ids: rowIdsSchema,
  name: z.string().trim().min(1, 'An item needs a name.').max(120).optional(),
  category: z.string().optional(),
  widthMm: z.number().positive('The width must be more than 0 mm.').max(100_000).nullable().optional(),
  /** Whether a material repeats or stands once. */
  tiling: z.enum(TILINGS).optional(),
  /** Facts by their names; null takes one back. */
  facts: z.record(z.string().regex(/^[a-zA-Z][a-zA-Z0-9]*$/), z.string().trim().max(200).nullable()).optional(),
  setAside: z.boolean().optional(),
  /** Of rows that could not be measured. */
  measureAgain: z.boolean().optional(),
  /** For rows with a conflict. */
  decision: z.enum(DECISIONS).optional(),
})
export type EditBatchItems = z.infer<typeof editBatchItemsSchema>

const pathList = z.array(z.string().min(1)).min(1).max(2000)
/**
 * Sorting by hand. split: files become a row of their own; merge: rows become one, the first leading; leave: files belong to no item;
 * take: files that belong to none go into a row, or become one (itemId null); into one that is accepted, they make its next version;
 * setRole: a file is another map than it seemed; chooseSize: of several sizes of a map one leads; setKind: one flat picture is a material, or a map
 * by itself; leaveRoles: a kind of file is left out.
 */
export const regroupSchema = z.discriminatedUnion('action', [
  z.object({ action: z.literal('split'), itemId: z.number().int(), paths: pathList }),
  z.object({ action: z.literal('merge'), ids: z.array(z.number().int()).min(2).max(200) }),
  z.object({ action: z.literal('leave'), itemId: z.number().int(), paths: pathList }),
  z.object({ action: z.literal('take'), itemId: z.number().int().nullable(), paths: pathList }),
  z.object({
    action: z.literal('setRole'),
    itemId: z.number().int(),
    path: z.string().min(1),
    role: z.enum([...MAP_ROLES, 'picture', 'alternate', 'document', 'lod']),
  }),
  z.object({
    action: z.literal('chooseSize'),
    ids: rowIdsSchema,
    px: z.number().int().positive(),
    leaveRest: z.boolean().default(false),
  }),
  z.object({
    action: z.literal('setKind'),
    ids: rowIdsSchema,
    kind: z.enum(['material', 'map']),
    tiling: z.enum(TILINGS).default('repeat'),
  }),
  z.object({
    action: z.literal('leaveRoles'),
    ids: rowIdsSchema,
    roles: z.array(z.string().min(1)).min(1),
  }),
])
export type Regroup = z.infer<typeof regroupSchema>

/** Findings of these codes, on one or many rows, to be fixed, or the fixes for them taken back. */
export const chooseFixesSchema = z.object({
  ids: rowIdsSchema,
  codes: z.array(z.enum(FINDING_CODES)).min(1),
  /** One map or part only. */
  subject: z.string().optional(),
  takeBack: z.boolean().default(false),
})
export type ChooseFixes = z.infer<typeof chooseFixesSchema>

/** A house material that a part without a material might get, and what speaks for it. */
export const materialChoiceSchema = z.object({
  code: z.string(),
  name: z.string(),
  reason: z.enum(['name', 'category', 'model', 'look', 'any']),
  preview: z.string().nullable(),
})
export type MaterialChoice = z.infer<typeof materialChoiceSchema>

export const assignMaterialSchema = z.object({
  itemId: z.number().int(),
  parts: z.array(z.string()).min(1).max(500),
  code: z.string().min(1),
})
export type AssignMaterial = z.infer<typeof assignMaterialSchema>

export const fileItemsSchema = z.object({ ids: rowIdsSchema })

/** Files that somebody is about to send, by what they hold. */
export const claimFilesSchema = z.object({
  files: z
    .array(
      z.object({ path: z.string().min(1).max(1000), hash: z.string().regex(/^[0-9a-f]{64}$/), size: z.number().int().min(0) }),
    )
    .min(1)
    .max(2000),
})
export type ClaimFiles = z.infer<typeof claimFilesSchema>
export const claimedFilesSchema = z.object({ taken: z.array(z.string()) })

/** Sizes of files that somebody is about to send, in bytes. */
export const sizesSchema = z.object({ sizes: z.array(z.number().int().min(0)).min(1).max(5000) })
export type Sizes = z.infer<typeof sizesSchema>
/** Those of them that something here has as well: what has another size need not be hashed to know that it is not here. */
export const sizesHereSchema = z.object({ sizes: z.array(z.number().int()) })

/** What an upload says of itself, in the metadata of the resumable protocol. */
export const uploadMetadataSchema = z.object({
  batchId: z.coerce.number().int(),
  path: z.string().min(1).max(1000),
})

export const sortBatchSchema = z.object({
  /** How many files their sender knows to have arrived; with fewer here the batch stays open. */
  expected: z.number().int().nonnegative().optional(),
})
