import { format } from 'date-fns'
import { Download } from 'lucide-react'
import { useState } from 'react'
import { toast } from 'sonner'
import { EXPORT_SIZES, type ExportRequest, type Project, type ProjectExport } from '#shared/contracts/projects.contract'
import { formatBytes } from '#shared/units'
import { tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { CheckBox } from '../../components/controls/CheckBox'
import { ChoiceField, optionsOf } from '../../components/controls/Choice'
import { Progress } from '../../components/Notice'
import { useEditProjectMutation, useOrderExportMutation } from '../../state/api'
import { plural } from '../../words/states'

const MATERIAL_WORDS: Record<ExportRequest['materials'], string> = {
  materialX: 'MaterialX and textures',
  gltf: 'glTF sample patches',
}

/** As the house hands over where nothing else is said. */
const HOUSE_FORM: ExportRequest = { materials: 'materialX', environments: 'asStored', maps: 'asStored', maxSizePx: null }

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

/** Handing over: in which form, all of it or what is new, and what was handed over before. */
export function ExportPanel({ project }: { project: Project }) {
  const [order, { isLoading }] = useOrderExportMutation()
  const [edit] = useEditProjectMutation()
  const [request, setRequest] = useState<ExportRequest>(project.ownForm ?? HOUSE_FORM)
  const [onlyNew, setOnlyNew] = useState(false)
  const send = async () => {
    const result = await order({ id: project.id, ...request, onlyNew })
    if (result.error) tellProblem(result.error)
  }
  const own = project.ownForm ?? HOUSE_FORM
  const isOwn = JSON.stringify(own) === JSON.stringify(request)
  const isHouse = JSON.stringify(request) === JSON.stringify(HOUSE_FORM)
  const keepForm = async () => {
    const result = await edit({ id: project.id, ownForm: isHouse ? null : request })
    if (result.error) return tellProblem(result.error)
    toast.success(isHouse ? `${project.code} takes the form of the house.` : `${project.code} has a form of its own.`)
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
      {project.ownForm && isOwn && (
        <p className="border-l-2 border-ink pl-2 text-xs">This project's own form: it is not as the house has it.</p>
      )}
      {!isOwn && project.mayDecide && (
        <Button variant="bare" className="-ml-3 self-start" onClick={keepForm}>
          {isHouse ? 'Take the form of the house again' : "Keep as this project's form"}
        </Button>
      )}
      {project.exports.some(d => d.state === 'ready') && (
        <CheckBox label="Only what is new since the last" checked={onlyNew} onChange={setOnlyNew} />
      )}
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
