import type { Finding } from '#core/findings/finding'
import { proposeFix } from '#core/fixes/fix'
import { describeFinding } from '#shared/finding-words'

/** A finding as pages show it, in words, with its pictures and the fix that there is for it. */
export const toFindingView = (f: Finding & { id?: number }, pictures: { before: string | null; after: string | null }) => ({
  id: f.id ?? null,
  code: f.code,
  severity: f.severity,
  subject: f.subject ?? null,
  message: describeFinding(f.code, f.evidence),
  fix: proposeFix(f)?.code ?? null,
  ...pictures,
})
