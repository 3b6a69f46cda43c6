import { format } from 'date-fns'
import { Download } from 'lucide-react'
import { useState } from 'react'
import { Link, useLocation } from 'react-router'
import { toast } from 'sonner'
import { EXPORT_SIZES, type ExportRequest, type Pin, type Project, type ProjectExport } from '#shared/contracts/projects.contract'
import { formatBytes } from '#shared/units'
import { tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { ChoiceField, optionsOf } from '../../components/controls/Choice'
import { EmptyState, Progress } from '../../components/Notice'
import { Page, PageHead } from '../../components/Page'
import { PreviewFrame } from '../../components/PreviewFrame'
import { useOrderExportMutation, usePinItemsMutation, useUnpinItemsMutation } from '../../state/api'
import { plural } from '../../words/states'
import { MockUpsPanel } from '../mock-up/MockUpsPanel'
import { GuestsPanel } from './GuestsPanel'
import { OpenProject } from './OpenProject'
import { RunPanel } from './RunPanel'

/** One job: what it pins, and what was exported for it. */
export const ProjectPlace = () => <OpenProject>{project => <ProjectView project={project} />}</OpenProject>

function ProjectView({ project }: { project: Project }) {
  return (
    <Page>
      <div className="mx-auto max-w-[100rem]">
        <PageHead
          from={{ to: '/projects', text: 'Projects' }}
          title={project.title}
          facts={`${project.code} · ${project.library}${project.phase === 'open' ? '' : ` · ${project.phase}`}`}
        />
      </div>
      <div className="mx-auto grid max-w-[100rem] grid-cols-[minmax(0,1fr)_19rem] gap-8">
        <section>
          <MockUpsPanel projectId={project.id} />
          <Pins project={project} />
        </section>
        <div className="flex flex-col gap-6">
          <Exports project={project} />
          <RunPanel project={project} />
          <GuestsPanel project={project} />
        </div>
      </div>
    </Page>
  )
}

function Pins({ project }: { project: Project }) {
  const asked = project.pinned.filter(p => p.isAsked)
  if (project.pinned.length === 0)
    return (
      <EmptyState title="Nothing is pinned yet.">
        <p className="mb-3">Put items in the tray on the wall, then choose this project.</p>
        <Link to="/wall" className="underline">
          To the wall
        </Link>
      </EmptyState>
    )
  return (
    <>
      {asked.length > 0 && (
        <div className="mb-3 flex items-center gap-3 bg-sheet px-3 py-2">
          <span>{plural(asked.length, 'pin has', 'pins have')} a newer version, or went from the library.</span>
          <Link
            to={`/projects/${project.id}/decisions`}
            className="ml-auto inline-flex h-8 items-center rounded-sm bg-accent px-3 font-semibold text-on-accent hover:brightness-105"
          >
            See what would change
          </Link>
        </div>
      )}
      <ul className="border-t border-line">
        {project.pinned.map(pin => (
          <PinLine key={pin.chip.id} pin={pin} projectId={project.id} />
        ))}
      </ul>
    </>
  )
}

function PinLine({ pin, projectId }: { pin: Pin; projectId: number }) {
  const { chip } = pin
  const location = useLocation()
  const [unpin] = useUnpinItemsMutation()
  const [pinAgain] = usePinItemsMutation()
  const remove = async () => {
    const result = await unpin({ id: projectId, ids: [chip.id] })
    if (result.error) tellProblem(result.error)
    else
      toast(`${chip.name} is taken out.`, {
        action: { label: 'Undo', onClick: () => pinAgain({ id: projectId, ids: [chip.id] }) },
      })
  }
  return (
    <li className="grid grid-cols-[5rem_minmax(0,1fr)_9rem_7rem_5.5rem] items-center gap-4 border-b border-line py-2">
      <Link to={`/items/${chip.code}`} state={{ behind: location }} aria-label={chip.name}>
        <PreviewFrame url={chip.preview} alt="" />
      </Link>
      <span className="min-w-0">
        <Link to={`/items/${chip.code}`} state={{ behind: location }} className="block truncate font-medium hover:underline">
          {chip.name}
        </Link>
        <span className="figures block text-xs text-quiet">
          {chip.code} <span className="ml-1">{chip.figure}</span>
        </span>
      </span>
      <span className="text-xs text-quiet">
        {pin.person}, {format(new Date(pin.createdAt), 'd MMM')}
      </span>
      <span>
        version {pin.versionNumber}
        {pin.isAsked ? (
          <Link to={`/projects/${projectId}/decisions`} className="block text-xs font-medium underline">
            {pin.approvedNumber === pin.versionNumber ? 'withdrawn' : `version ${pin.approvedNumber} is there`}
          </Link>
        ) : (
          pin.approvedNumber !== null &&
          pin.approvedNumber !== pin.versionNumber && (
            <span className="block text-xs text-quiet">stays before {pin.approvedNumber}</span>
          )
        )}
      </span>
      <Button variant="bare" onClick={remove}>
        Take out
      </Button>
    </li>
  )
}

const MATERIAL_WORDS: Record<ExportRequest['materials'], string> = {
  materialX: 'MaterialX and textures',
  gltf: 'glTF sample patches',
}

const ENVIRONMENT_WORDS: Record<ExportRequest['environments'], string> = {
  asStored: 'as they are stored',
  exr: 'OpenEXR',
  hdr: 'Radiance HDR',
}

const MAP_FORM_WORDS: Record<ExportRequest['maps'], string> = {
  asStored: 'as they are kept',
  png: 'PNG',
  tiff: 'TIFF',
  exr: 'OpenEXR',
}

function Exports({ project }: { project: Project }) {
  const [order, { isLoading }] = useOrderExportMutation()
  const [request, setRequest] = useState<ExportRequest>({
    materials: 'materialX',
    environments: 'asStored',
    maps: 'asStored',
    maxSizePx: null,
  })
  const send = async () => {
    const result = await order({ id: project.id, ...request })
    if (result.error) tellProblem(result.error)
  }
  return (
    <aside className="flex flex-col gap-3 self-start rounded-sm bg-sheet p-4">
      <h2 className="text-section">Export</h2>
      <ChoiceField
        label="Materials as"
        value={request.materials}
        onChange={materials => setRequest({ ...request, materials })}
        options={optionsOf(['materialX', 'gltf'] as const, MATERIAL_WORDS)}
      />
      <ChoiceField
        label="Environments as"
        value={request.environments}
        onChange={environments => setRequest({ ...request, environments })}
        options={optionsOf(['asStored', 'exr', 'hdr'] as const, ENVIRONMENT_WORDS)}
      />
      <ChoiceField
        label="Maps as"
        value={request.maps}
        onChange={maps => setRequest({ ...request, maps })}
        options={optionsOf(['asStored', 'png', 'tiff', 'exr'] as const, MAP_FORM_WORDS)}
      />
      <ChoiceField
        label="Textures and skies up to"
        value={String(request.maxSizePx ?? '')}
        onChange={px => setRequest({ ...request, maxSizePx: EXPORT_SIZES.find(size => String(size) === px) ?? null })}
        options={[{ value: '', text: 'full size' }, ...EXPORT_SIZES.map(px => ({ value: String(px), text: `${px} px` }))]}
      />
      <Button variant="next" className="justify-center" disabled={isLoading || project.pinned.length === 0} onClick={send}>
        Write the zip
      </Button>
      <p className="text-xs text-quiet">Models come as binary glTF. A manifest names codes, versions, hashes and licences.</p>
      {project.exports.length > 0 && (
        <ul className="border-t border-line">
          {project.exports.map(d => (
            <ExportLine key={d.id} ordered={d} />
          ))}
        </ul>
      )}
    </aside>
  )
}

function ExportLine({ ordered: d }: { ordered: ProjectExport }) {
  return (
    <li className="flex flex-col gap-1 border-b border-line py-2">
      <div className="flex items-center gap-2">
        <span className="min-w-0">
          <span className="block">{plural(d.total, 'item')}</span>
          <span className="block text-xs text-quiet">
            {MATERIAL_WORDS[d.request.materials]}, {d.request.maxSizePx ? `${d.request.maxSizePx} px` : 'full size'}
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
      {d.message && <p className="text-xs font-medium">{d.message}</p>}
      <span className="text-xs text-quiet">
        {d.person}, {format(new Date(d.createdAt), 'd MMM HH:mm')}
      </span>
    </li>
  )
}
