import { format } from 'date-fns'
import { lazy, Suspense, useState } from 'react'
import { useDropzone } from 'react-dropzone'
import { Link, useNavigate } from 'react-router'
import type { AuditSummary } from '#shared/contracts/audits.contract'
import type { Project } from '#shared/contracts/projects.contract'
import { tellProblem } from '../../../components/bulk-words'
import { Button } from '../../../components/controls/Button'
import { Progress } from '../../../components/Notice'
import { Panel } from '../../../components/Page'
import { useBeginAuditMutation, useGetSessionQuery, useListAuditsQuery } from '../../../state/api'
import { plural } from '../../../words/states'
import { useSendScene } from '../../intake/upload/use-send-scene'
import { standardShare } from './audit-trend'
import { SharesBar } from './SharesBar'

// Charts come with what is drawn in them.
const AuditTrend = lazy(() => import('./AuditTrend'))

const SHOWN = 4
/** Two points are no course of things. */
const LEAST_FOR_TREND = 3

/** A project's scenes: dropped here they are looked through for what is not as pinned. */
export function ScenesPanel({ project }: { project: Project }) {
  const { data: audits = [] } = useListAuditsQuery({ id: project.id })
  const [isWhole, setWhole] = useState(false)
  const { take, sent } = useSceneUpload(project)
  const { getRootProps, getInputProps, isDragActive, open } = useDropzone({
    onDropAccepted: files => void take(files),
    noClick: true,
    noKeyboard: true,
  })
  const shown = isWhole ? audits : audits.slice(0, SHOWN)
  return (
    <Panel label="Scenes" title="Scenes" actions={<Button onClick={open}>Audit a scene</Button>} className="mb-6">
      <div {...getRootProps()} className={`rounded-sm ${isDragActive ? 'outline-2 outline-dashed outline-ink' : ''}`}>
        <input {...getInputProps()} aria-label="Scene to audit" />
        {sent !== null && (
          <div role="status" className="mb-3">
            <p className="mb-1 text-xs text-quiet">Sending the scene</p>
            <Progress share={sent} label="Sending the scene" />
          </div>
        )}
        {audits.length === 0 && sent === null && (
          <p className="text-quiet">
            Drop a scene here (glTF, USDZ, OBJ with its files, or a zip of them): it is told what in it is as pinned, what is
            older, altered or foreign, and put back in one step.
          </p>
        )}
        {audits.filter(a => a.shares !== null).length >= LEAST_FOR_TREND && (
          <Suspense fallback={null}>
            <AuditTrend audits={audits} />
          </Suspense>
        )}
        <ul>
          {shown.map(audit => (
            <AuditLine key={audit.id} audit={audit} />
          ))}
        </ul>
        {audits.length > SHOWN && (
          <Button variant="bare" className="-ml-3 mt-1" onClick={() => setWhole(!isWhole)}>
            {isWhole ? 'Only the last' : `All ${audits.length}`}
          </Button>
        )}
      </div>
    </Panel>
  )
}

function AuditLine({ audit: a }: { audit: AuditSummary }) {
  const standard = standardShare(a.shares?.byArea ?? {})
  return (
    <li className="border-t border-line">
      <Link to={`/audits/${a.id}`} className="grid grid-cols-[minmax(0,1fr)_12rem_11rem] items-center gap-4 py-2 hover:bg-mount">
        <span className="min-w-0">
          <span className="block truncate font-medium">{a.title}</span>
          <span className="block text-xs text-quiet">
            {a.person}, {format(new Date(a.createdAt), 'd MMM HH:mm')}
          </span>
        </span>
        {a.state === 'ready' && a.shares ? (
          <SharesBar shares={a.shares.byArea} label="By surface" isSmall />
        ) : a.state === 'failed' ? (
          <span className="text-xs font-medium">would not read</span>
        ) : (
          <Progress share={a.share} label={a.step || 'in line'} />
        )}
        <span className="text-right text-xs">
          {a.state === 'ready' ? (
            <>
              {standard} % on standard
              <span className="block text-quiet">by surface, of {plural(a.things, 'thing')}</span>
            </>
          ) : (
            <span className="text-quiet">{a.state === 'failed' ? '' : a.step || 'in line'}</span>
          )}
        </span>
      </Link>
    </li>
  )
}

/** Has what was dropped audited when it is there; the share that is sent, null while nothing is. */
function useSceneUpload(project: Project) {
  const { data: session } = useGetSessionQuery()
  const [begin] = useBeginAuditMutation()
  const navigate = useNavigate()
  const library = session?.libraries.find(l => l.title === project.library)?.key
  return useSendScene(library, async batchId => {
    const begun = await begin({ batchId, projectId: project.id })
    if (begun.data) navigate(`/audits/${begun.data.id}`)
    else tellProblem(begun.error)
  })
}
