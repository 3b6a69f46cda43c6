import { Download } from 'lucide-react'
import type { Sheet } from '#shared/contracts/items.contract'
import { formatBytes } from '#shared/units'
import { PathText } from '../../components/PathText'
import { roleWord } from '../../words/states'
import { TakeAlong } from './TakeAlong'

export function SheetFiles({ sheet }: { sheet: Sheet }) {
  return (
    <section>
      <div className="mb-2 flex items-center gap-3">
        <h2 className="mr-auto text-section">Files of version {sheet.version.number}</h2>
        <TakeAlong sheet={sheet} />
      </div>
      <ul className="border-t border-line">
        {sheet.files.map(f => (
          <li key={f.url} className="grid grid-cols-[9rem_minmax(0,1fr)_5rem_2rem] items-center gap-3 border-b border-line py-1">
            <span>{roleWord(f.role)}</span>
            <PathText path={f.path} title={`${f.path}\nSHA-256 ${f.hash}`} className="text-xs" />
            <span className="figures text-right text-xs">{formatBytes(f.size)}</span>
            <a
              href={`${f.url}?download`}
              className="flex size-7 items-center justify-center rounded-sm hover:bg-mount"
              aria-label={`Download ${f.path}`}
            >
              <Download aria-hidden className="size-4" />
            </a>
          </li>
        ))}
      </ul>
    </section>
  )
}
