import type { NameMatch } from './match-names'

/** Why a house material is proposed for one of a model's own. */
export type ProposalReason = 'before' | 'code' | 'name' | 'look'

export interface MaterialProposal {
  code: string
  /** 0..1; 1 only of what was decided before. */
  confidence: number
  reasons: ProposalReason[]
}

interface Evidence {
  /** The item that was decided for a material of this name in this project before. */
  before: string | null
  byName: readonly NameMatch[]
  /** Nothing but a colour: without a pattern many things look like it. */
  isPlain?: boolean
  /** How unlike items look, in typical distances between items of the library. */
  byLook: readonly { code: string; unlike: number }[]
}

/** A name can be wrong, and so can a look; neither is ever certain alone. */
const MOST_BY_NAME = 0.85
const MOST_BY_LOOK = 0.9
const MOST_BY_COLOR = 0.3
/** A code is nobody's by chance. */
const BY_CODE = 0.97
/** In typical distances: so unlike, a look says half of what it can. */
const HALF_AT = 0.55
const LEAST = 0.2
const MOST_PROPOSED = 3

/** What evidence says together, the surest first: two that agree are surer than either (as independent sources, noisy or). */
export function proposeMaterials({ before, byName, byLook, isPlain = false }: Evidence): MaterialProposal[] {
  const doubts = new Map<string, { doubt: number; reasons: ProposalReason[] }>()
  const say = (code: string, reason: ProposalReason, confidence: number) => {
    const { doubt, reasons } = doubts.get(code) ?? { doubt: 1, reasons: [] }
    doubts.set(code, { doubt: doubt * (1 - confidence), reasons: [...reasons, reason] })
  }
  if (before !== null) say(before, 'before', 1)
  for (const { code, likeness, hasCode } of byName)
    say(code, hasCode ? 'code' : 'name', hasCode ? BY_CODE : MOST_BY_NAME * Math.min(1, likeness))
  for (const { code, unlike } of byLook)
    say(code, 'look', (isPlain ? MOST_BY_COLOR : MOST_BY_LOOK) / (1 + (unlike / HALF_AT) ** 2))
  return [...doubts]
    .map(([code, { doubt, reasons }]) => ({ code, confidence: 1 - doubt, reasons }))
    .filter(p => p.confidence >= LEAST)
    .sort((a, b) => b.confidence - a.confidence || (a.code < b.code ? -1 : 1))
    .slice(0, MOST_PROPOSED)
}
