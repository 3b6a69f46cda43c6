import { z } from 'zod'

/** What the server tells open pages, each with the library it concerns, so that nobody hears of what they may not see. */
export const liveMessageSchema = z.discriminatedUnion('topic', [
  z.object({
    topic: z.literal('batch'),
    libraryId: z.number(),
    batchId: z.number(),
    /** The rows that changed, where it is these alone. */
    rowIds: z.array(z.number()).optional(),
  }),
  z.object({
    topic: z.literal('preview'),
    libraryId: z.number(),
    inputKey: z.string(),
    /** 0..1; 1 when the picture is there. */
    share: z.number(),
    /** Of its noisiest part, in display luminance 0..1, and how long it may take from now; null where that cannot be told yet. */
    error: z.number().nullable().optional(),
    secondsLeft: z.number().nullable().optional(),
    itemId: z.number().nullable(),
    batchId: z.number().nullable(),
  }),
  z.object({ topic: z.literal('item'), libraryId: z.number(), itemId: z.number() }),
  /** Items came into a library. */
  z.object({ topic: z.literal('library'), libraryId: z.number() }),
  /** A background run went on; concerns no library's contents, only how far it is. */
  z.object({ topic: z.literal('rerender'), rerenderId: z.number() }),
  z.object({ topic: z.literal('project'), libraryId: z.number(), projectId: z.number() }),
  /** A mock-up's scene is at another revision, or one of its pictures is further. */
  z.object({
    topic: z.literal('mockUp'),
    libraryId: z.number(),
    mockUpId: z.number(),
    revision: z.number().nullable(),
    picture: z.number().nullable(),
  }),
  /** A model to stand in was brought, is read, or was forgotten. */
  z.object({ topic: z.literal('stageModel'), libraryId: z.number(), projectId: z.number().nullable() }),
  /** An audit of a scene is further. */
  z.object({ topic: z.literal('audit'), libraryId: z.number(), projectId: z.number().nullable(), auditId: z.number() }),
  /** One of somebody's desks told what lies on it; only they hear of it. */
  z.object({ topic: z.literal('desk'), personId: z.number() }),
  /** Work was given up, or tried again. */
  z.object({ topic: z.literal('failedWork') }),
  /** The server could not hear what changed for a while: whatever is shown may be old. */
  z.object({ topic: z.literal('anything') }),
])
export type LiveMessage = z.infer<typeof liveMessageSchema>
