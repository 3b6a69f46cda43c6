import { Download } from 'lucide-react'
import { useState } from 'react'
import type { Sheet } from '#shared/contracts/items.contract'
import { summarizeProfile } from '#shared/profile-words'
import { Choice } from '../../components/controls/Choice'
import { handOverLink, offerToDesktop } from '../../components/hand-over/hand-over-link'
import { useListProfilesQuery } from '../../state/api'

/** The version as a renderer of the house wants it: to download, or to be dragged out of the browser into a folder. */
export function TakeAlong({ sheet }: { sheet: Sheet }) {
  const { data: profiles } = useListProfilesQuery()
  const [picked, setPicked] = useState<number | null>(null)
  const chosen = profiles?.find(p => p.id === picked) ?? profiles?.[0]
  if (!profiles || !chosen) return null
  const link = handOverLink(sheet, { version: sheet.version.number, profileId: chosen.id })
  return (
    <div className="flex items-center gap-2">
      <Choice
        label="Profile"
        className="w-44"
        title={summarizeProfile(chosen.profile)}
        value={String(chosen.id)}
        onChange={id => setPicked(Number(id))}
        options={profiles.map(p => ({ value: String(p.id), text: p.name }))}
      />
      <a
        href={link}
        download
        draggable
        onDragStart={event => offerToDesktop(event, sheet, link)}
        title="Download, or drag it into a folder"
        className="inline-flex h-8 shrink-0 items-center gap-1.5 rounded-sm border border-edge bg-mount px-3 whitespace-nowrap hover:border-ink"
      >
        <Download aria-hidden className="size-4" />
        Take along
      </a>
    </div>
  )
}
