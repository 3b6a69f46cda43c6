import { Download } from 'lucide-react'
import { useState } from 'react'
import { type DeliveredMap, mapsOfRoles } from '#core/hand-over/delivered-maps'
import type { Sheet } from '#shared/contracts/items.contract'
import { summarizeProfile } from '#shared/profile-words'
import { Choice } from '../../components/controls/Choice'
import { handOverLink, offerToDesktop } from '../../components/hand-over/hand-over-link'
import { useListProfilesQuery } from '../../state/api'
import { roleWord } from '../../words/states'

const ALL = 'all'
const COPY = 'copy'

/** The version, or one map of it, as a renderer of the house wants it: to download; all of it also to be dragged out into a folder. */
export function TakeAlong({ sheet }: { sheet: Sheet }) {
  const { data: profiles } = useListProfilesQuery()
  const [picked, setPicked] = useState<number | null>(null)
  const chosen = profiles?.find(p => p.id === picked) ?? profiles?.[0]
  const [what, setWhat] = useState<string>(ALL)
  if (!profiles || !chosen) return null
  const maps = sheet.kind === 'material' ? mapsOfRoles(sheet.files.map(f => f.role)) : []
  const map: DeliveredMap | undefined = maps.find(m => m === what)
  const isCopy = what === COPY
  const link = handOverLink(sheet, {
    version: sheet.version.number,
    profileId: chosen.id,
    ...(map ? { map } : {}),
    ...(isCopy ? { isCopy } : {}),
  })
  return (
    <div className="flex items-center gap-2">
      {(sheet.kind === 'material' || sheet.kind === 'model') && (
        <Choice
          label="What is taken along"
          className="w-36"
          value={what}
          onChange={setWhat}
          title={isCopy ? 'It says of itself that it may be changed; an audit knows it, and does not put it back' : undefined}
          options={[
            { value: ALL, text: 'all of it' },
            { value: COPY, text: 'an editable copy' },
            ...(maps.length > 1 ? maps.map(m => ({ value: m, text: `${roleWord(m)} alone` })) : []),
          ]}
        />
      )}
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
        draggable={!map}
        onDragStart={event => offerToDesktop(event, sheet, link)}
        title={map ? 'Download' : 'Download, or drag it into a folder'}
        className="inline-flex h-8 shrink-0 items-center gap-1.5 rounded-sm border border-edge bg-mount px-3 whitespace-nowrap hover:border-ink"
      >
        <Download aria-hidden className="size-4" />
        Take along
      </a>
    </div>
  )
}
