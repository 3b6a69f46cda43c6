import { useState } from 'react'
import type { MapSourceFolder, SourceFolderView } from '#shared/contracts/intake.contract'
import type { Category } from '#shared/contracts/items.contract'
import { Button } from '../../../../components/controls/Button'
import { CategoryChoice } from '../../../../components/controls/CategoryChoice'
import { KIND_WORDS, plural } from '../../../../words/states'

const REASON_WORDS: Record<SourceFolderView['reason'], string> = {
  remembered: 'as the last time',
  content: 'by what lies in it',
  words: 'by its name',
}
/** From here on nobody needs to look before agreeing. */
const SURE = 0.7

/** The delivery's own order beside the house tree: where each of its source folders would go, to be agreed with or corrected. */
export function SourceFolderPanel({
  sourceFolders,
  categories,
  onMap,
}: {
  sourceFolders: readonly SourceFolderView[]
  categories: readonly Category[]
  onMap: (list: MapSourceFolder[]) => void
}) {
  const [corrected, setCorrected] = useState<Record<string, string>>({})
  const keyOf = (p: SourceFolderView) => `${p.kind}/${p.sourceFolder}`
  const wishOf = (p: SourceFolderView): MapSourceFolder[] => {
    const category = corrected[keyOf(p)] ?? p.category
    return category === null ? [] : [{ sourceFolder: p.sourceFolder, kind: p.kind, category }]
  }
  const sure = sourceFolders.filter(p => p.confidence >= SURE && (p.astray > 0 || p.reason !== 'remembered'))
  return (
    <section aria-label="The delivery's own order" className="mx-6 mb-3 max-h-72 shrink-0 overflow-auto bg-sheet px-4 py-3">
      <div className="mb-2 flex items-center gap-4">
        <p className="text-xs text-quiet">
          How this delivery files its things, and where each source folder goes in the house tree. What you decide is remembered
          for this supplier.
        </p>
        {sure.length > 1 && (
          <Button className="ml-auto" onClick={() => onMap(sure.flatMap(wishOf))}>
            Agree to the {sure.length} that are sure
          </Button>
        )}
      </div>
      <ul>
        {sourceFolders.map(p => (
          <li
            key={keyOf(p)}
            className="grid grid-cols-[minmax(0,1fr)_8rem_13rem_12rem_5rem] items-center gap-4 border-t border-line/60 py-1.5"
          >
            <span className="truncate" title={p.sourceFolder}>
              {p.sourceFolder}
            </span>
            <span className="text-xs text-quiet">{plural(p.rows, KIND_WORDS[p.kind].one, KIND_WORDS[p.kind].many)}</span>
            <CategoryChoice
              label={`House category of ${p.sourceFolder}`}
              className="w-full"
              value={corrected[keyOf(p)] ?? p.category ?? ''}
              none="not known; please choose"
              onChange={category => setCorrected({ ...corrected, [keyOf(p)]: category })}
              categories={categories.filter(c => c.kind === p.kind)}
            />
            <span className={`text-xs ${p.confidence < 0.5 ? 'font-medium' : 'text-quiet'}`}>
              {p.category === null
                ? 'too little speaks for any'
                : `${Math.round(p.confidence * 100)} % sure, ${REASON_WORDS[p.reason]}`}
            </span>
            <Button disabled={wishOf(p).length === 0} onClick={() => onMap(wishOf(p))}>
              {p.astray > 0 || corrected[keyOf(p)] ? 'Send' : 'Agree'}
            </Button>
          </li>
        ))}
      </ul>
    </section>
  )
}
