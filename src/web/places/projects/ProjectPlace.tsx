import { useState } from 'react'
import { Link } from 'react-router'
import type { Project } from '#shared/contracts/projects.contract'
import { AfterPaint } from '../../components/AfterPaint'
import { Page, PageHead } from '../../components/Page'
import { MockUpsPanel } from '../mock-up/MockUpsPanel'
import { ScenesPanel } from './audits/ScenesPanel'
import { ExportPanel } from './ExportPanel'
import { GuestsPanel } from './GuestsPanel'
import { OpenProject } from './OpenProject'
import { PinList } from './PinList'
import { RunPanel } from './RunPanel'

/** One job: what it pins, and what was exported for it. */
export const ProjectPlace = () => <OpenProject>{project => <ProjectView project={project} />}</OpenProject>

function ProjectView({ project }: { project: Project }) {
  const [marked, setMarked] = useState<readonly number[]>([])
  // What was taken out meanwhile is chosen no more.
  const chosen = marked.filter(id => project.pinned.some(p => p.chip.id === id))
  return (
    <Page>
      <div className="mx-auto max-w-[100rem]">
        <PageHead
          from={{ to: '/projects', text: 'Projects' }}
          title={project.title}
          facts={`${project.code} · ${project.library}${project.phase === 'open' ? '' : ` · ${project.phase}`}`}
          actions={
            <Link
              to={`/projects/${project.id}/schedule`}
              className="inline-flex h-8 items-center rounded-sm border border-edge bg-mount px-3 hover:border-ink"
            >
              Schedule
            </Link>
          }
        />
      </div>
      <div className="mx-auto grid max-w-[100rem] grid-cols-[minmax(0,1fr)_19rem] gap-8">
        <section>
          <MockUpsPanel projectId={project.id} />
          <ScenesPanel project={project} />
          <PinList project={project} chosen={chosen} onChoose={setMarked} />
        </section>
        <div className="flex flex-col gap-6">
          <AfterPaint>
            <ExportPanel project={project} chosen={chosen} />
            <RunPanel project={project} />
            <GuestsPanel project={project} />
          </AfterPaint>
        </div>
      </div>
    </Page>
  )
}
