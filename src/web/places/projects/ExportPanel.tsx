import { format } from 'date-fns'
import { Download } from 'lucide-react'
import { useState } from 'react'
import { Link } from 'react-router'
import { toast } from 'sonner'
import { HOUSE_PROFILE, type Profile } from '#core/hand-over/profile'
import type { Project, ProjectExport } from '#shared/contracts/projects.contract'
import { summarizeProfile } from '#shared/profile-words'
import { formatBytes } from '#shared/units'
import { tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { CheckBox } from '../../components/controls/CheckBox'
import { ChoiceField } from '../../components/controls/Choice'
import { Modal } from '../../components/dialogs/Modal'
import { ProfileFields } from '../../components/hand-over/ProfileFields'
import { Progress } from '../../components/Notice'
import { useEditProjectMutation, useListProfilesQuery, useOrderExportMutation } from '../../state/api'
import { plural } from '../../words/states'
import { HandOverCheck } from './HandOverCheck'

const OWN = 'own'

interface Props {
  project: Project
  /** Pins that are chosen; empty for all. */
  chosen: readonly number[]
}

/** Handing over: by which profile, all of it, what is chosen or what is new, and what was handed over before. */
export function ExportPanel({ project, chosen }: Props) {
  const { data: profiles = [] } = useListProfilesQuery()
  const [order, { isLoading }] = useOrderExportMutation()
  const [edit] = useEditProjectMutation()
  const [picked, setPicked] = useState<string | null>(null)
  const [onlyNew, setOnlyNew] = useState(false)
  const [isChanging, setChanging] = useState(false)
  const house = profiles.find(p => p.isHouse)
  const usual = project.ownForm ? OWN : String(project.profileId ?? house?.id ?? '')
  const value = picked ?? usual
  const named = profiles.find(p => String(p.id) === value)
  const profile = value === OWN ? (project.ownForm ?? HOUSE_PROFILE) : (named?.profile ?? HOUSE_PROFILE)
  const send = async () => {
    const result = await order({
      id: project.id,
      ...(named ? { profileId: named.id } : {}),
      ...(chosen.length > 0 ? { itemIds: [...chosen] } : {}),
      onlyNew,
    })
    if (result.error) tellProblem(result.error)
  }
  const keep = async (wish: { ownForm?: Profile | null; profileId?: number | null }, told: string) => {
    const before = { ownForm: project.ownForm, profileId: project.profileId }
    const result = await edit({ id: project.id, ...wish })
    if (result.error) return tellProblem(result.error)
    setPicked(null)
    toast.success(told, { action: { label: 'Undo', onClick: () => void edit({ id: project.id, ...before }) } })
  }
  const keepNamed = () =>
    named && keep({ ownForm: null, profileId: named.isHouse ? null : named.id }, `${project.code} hands over by ${named.name}.`)
  return (
    <aside className="flex flex-col gap-3 self-start rounded-sm bg-sheet p-4">
      <h2 className="text-section">Hand over</h2>
      <ChoiceField
        label="Profile"
        value={value}
        onChange={setPicked}
        options={[
          ...(project.ownForm ? [{ value: OWN, text: 'this project’s own' }] : []),
          ...profiles.map(p => ({ value: String(p.id), text: p.isHouse ? `${p.name}, as the house` : p.name })),
        ]}
      />
      <p className="text-xs text-quiet">{summarizeProfile(profile)}</p>
      {value === OWN && (
        <p className="border-l-2 border-ink pl-2 text-xs">This project’s own form: it is not as the house has it.</p>
      )}
      {project.mayDecide && (
        <div className="-my-1 -ml-3 flex flex-wrap">
          {value !== usual && (
            <Button variant="bare" onClick={keepNamed}>
              Keep for this project
            </Button>
          )}
          <Button variant="bare" onClick={() => setChanging(true)}>
            {project.ownForm ? 'Change its own form' : 'A form of its own'}
          </Button>
        </div>
      )}
      <HandOverCheck projectId={project.id} materials={profile.materials} />
      {project.exports.some(d => d.state === 'ready') && (
        <CheckBox label="Only what is new since the last" checked={onlyNew} onChange={setOnlyNew} />
      )}
      <Button
        // What is to be decided comes first.
        variant={project.outdated > 0 ? 'plain' : 'next'}
        className="justify-center"
        disabled={isLoading || project.pinned.length === 0}
        onClick={send}
      >
        {chosen.length > 0 ? `Write the zip of the ${chosen.length} chosen` : 'Write the zip'}
      </Button>
      <p className="text-xs text-quiet">A manifest names codes, versions, hashes, licences, and what a form does not hold.</p>
      {project.exports.length > 0 && (
        <ul className="border-t border-line">
          {project.exports.map(d => (
            <ExportLine key={d.id} ordered={d} />
          ))}
        </ul>
      )}
      {isChanging && (
        <OwnForm
          code={project.code}
          profile={profile}
          onClose={() => setChanging(false)}
          onKeep={ownForm => {
            setChanging(false)
            void keep({ ownForm }, `${project.code} has a form of its own.`)
          }}
        />
      )}
    </aside>
  )
}

interface OwnFormProps {
  code: string
  profile: Profile
  onClose: () => void
  onKeep: (profile: Profile) => void
}

function OwnForm({ code, profile, onClose, onKeep }: OwnFormProps) {
  const [draft, setDraft] = useState(profile)
  return (
    <Modal title={`How ${code} hands over`} width="frame" onClose={onClose}>
      <div className="flex flex-col gap-5">
        <ProfileFields profile={draft} onChange={setDraft} />
        <div className="flex items-center gap-2">
          <Link to="/standard/profiles" className="text-xs text-quiet underline hover:text-ink">
            Profiles of the house
          </Link>
          <Button variant="bare" className="ml-auto" onClick={onClose}>
            Leave it
          </Button>
          <Button variant="next" onClick={() => onKeep(draft)}>
            Keep for this project
          </Button>
        </div>
      </div>
    </Modal>
  )
}

function ExportLine({ ordered: d }: { ordered: ProjectExport }) {
  return (
    <li className="flex flex-col gap-1 border-b border-line py-2">
      <div className="flex items-center gap-2">
        <span className="min-w-0">
          <span className="block">{plural(d.total, 'item')}</span>
          <span className="block truncate text-xs text-quiet" title={summarizeProfile(d.profile)}>
            {d.label || 'its own form'}
          </span>
        </span>
        {d.url && (
          <a
            href={d.url}
            download
            className="ml-auto inline-flex h-8 shrink-0 items-center gap-1.5 rounded-sm border border-line bg-mount px-3 hover:border-quiet"
          >
            <Download aria-hidden className="size-4" />
            {d.size !== null && formatBytes(d.size)}
          </a>
        )}
      </div>
      {(d.state === 'waiting' || d.state === 'writing') && (
        <>
          <span role="status" className="text-xs text-quiet">
            {d.state === 'waiting' ? 'in line' : `writing ${d.done} of ${d.total}`}
          </span>
          <Progress share={d.total > 0 ? d.done / d.total : 0} label="Writing the export" />
        </>
      )}
      {d.manifestUrl && (
        <a href={d.manifestUrl} download className="self-start text-xs text-quiet underline hover:text-ink">
          Manifest alone, for who has the files
        </a>
      )}
      {d.message && <p className="text-xs font-medium">{d.message}</p>}
      <span className="text-xs text-quiet">
        {d.person}, {format(new Date(d.createdAt), 'd MMM HH:mm')}
      </span>
    </li>
  )
}
