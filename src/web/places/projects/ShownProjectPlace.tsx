import { Dialog, DialogPanel, DialogTitle } from '@headlessui/react'
import { X } from 'lucide-react'
import { useState } from 'react'
import type { Pin, Project } from '#shared/contracts/projects.contract'
import { Button } from '../../components/controls/Button'
import { EmptyState } from '../../components/Notice'
import { Page, PageHead } from '../../components/Page'
import { PreviewFrame } from '../../components/PreviewFrame'
import { KIND_WORDS, plural } from '../../words/states'
import { OpenProject } from './OpenProject'

/** A project as it is shown to a guest: what it uses, to look at. */
export const ShownProjectPlace = () => <OpenProject>{project => <ShownProject project={project} />}</OpenProject>

function ShownProject({ project }: { project: Project }) {
  const [large, setLarge] = useState<Pin | null>(null)
  return (
    <Page>
      <div className="mx-auto max-w-[100rem]">
        <PageHead
          from={{ to: '/projects', text: 'Projects' }}
          title={project.title}
          facts={`${project.code} · ${plural(project.pinned.length, 'item')}`}
        />
        {project.pinned.length === 0 ? (
          <EmptyState title="Nothing is chosen for it yet.">What the studio chooses appears here.</EmptyState>
        ) : (
          <ul className="grid grid-cols-[repeat(auto-fill,minmax(17rem,1fr))] gap-x-5 gap-y-6">
            {project.pinned.map(pin => (
              <li key={pin.chip.id}>
                <button
                  type="button"
                  onClick={() => setLarge(pin)}
                  className="block w-full text-left"
                  aria-label={`Larger: ${pin.chip.name}`}
                >
                  <PreviewFrame url={pin.chip.preview} alt="" />
                </button>
                <PinWords pin={pin} />
              </li>
            ))}
          </ul>
        )}
      </div>
      <Dialog open={large !== null} onClose={() => setLarge(null)} className="relative z-40">
        <div className="fixed inset-0 bg-black/40" aria-hidden />
        <div className="fixed inset-0 flex items-center justify-center p-8">
          {large && (
            <DialogPanel className="w-full max-w-4xl rounded-sm bg-sheet p-4 shadow-xl">
              <div className="mb-3 flex items-center">
                <DialogTitle className="text-section">{large.chip.name}</DialogTitle>
                <Button variant="bare" className="ml-auto" onClick={() => setLarge(null)} aria-label="Close" title="Close (Esc)">
                  <X aria-hidden className="size-4" />
                </Button>
              </div>
              <PreviewFrame url={large.chip.preview} alt={`Preview of ${large.chip.name}`} />
              <p className="mt-2 text-xs text-quiet">
                <span className="figures">{large.chip.code}</span> {KIND_WORDS[large.chip.kind].one}, version{' '}
                {large.versionNumber}
              </p>
            </DialogPanel>
          )}
        </div>
      </Dialog>
    </Page>
  )
}

const PinWords = ({ pin: { chip } }: { pin: Pin }) => (
  <div className="mt-1.5">
    <p className="truncate font-medium">{chip.name}</p>
    <p className="figures text-xs text-quiet">
      {chip.code} <span className="ml-1">{chip.figure}</span>
    </p>
  </div>
)
