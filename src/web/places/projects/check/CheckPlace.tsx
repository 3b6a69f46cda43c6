import { format } from 'date-fns'
import { useRef, useState } from 'react'
import { useDropzone } from 'react-dropzone'
import { Link, useLocation } from 'react-router'
import { toast } from 'sonner'
import { z } from 'zod'
import { type ExportManifest, isOlder, type Standing } from '#shared/contracts/hand-over.contract'
import { tellProblem } from '../../../components/bulk-words'
import { Button } from '../../../components/controls/Button'
import { CONTROL } from '../../../components/controls/control-look'
import { Progress } from '../../../components/Notice'
import { Page, PageHead } from '../../../components/Page'
import { saveBlob } from '../../../components/save-blob'
import { useListStandingMutation, useReportDeskMutation } from '../../../state/api'
import { readRemembered, remember } from '../../../state/remembered'
import { plural } from '../../../words/states'
import { toDropped } from '../../intake/upload/dropped-path'
import { hashFile } from '../../intake/upload/hash-file'
import { type CheckedFile, compareFiles, NoHandOver, readDroppedHandOver } from './dropped-hand-over'
import { startZip } from './zips'

interface Checked {
  manifest: ExportManifest
  /** Null of a manifest alone, whose files nobody looked at. */
  files: CheckedFile[] | null
  standing: Standing[]
}

/** What somebody was handed over: whether it is whole, and whether it is still what the library holds. */
export function CheckPlace() {
  const [ask] = useListStandingMutation()
  const [checked, setChecked] = useState<Checked | null>(null)
  const [share, setShare] = useState<number | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const folder = useRef<HTMLInputElement>(null)
  const take = async (given: readonly File[]) => {
    if (given.length === 0) return
    setProblem(null)
    setChecked(null)
    setShare(0)
    try {
      const { manifest, files } = await readDroppedHandOver(toDropped(given))
      const compared = files && (await compareFiles(manifest, files, hashFile, setShare))
      const items = manifest.items.map(({ code, version }) => ({ code, version }))
      const answer = await ask({ items })
      if (answer.error)
        setProblem('The files were compared; how the items stand now could not be asked. Try it again in a moment.')
      setChecked({ manifest, files: compared, standing: answer.data ?? [] })
    } catch (error) {
      setProblem(
        error instanceof NoHandOver
          ? error.message
          : 'The files could not be read to their end: one of them went, or the browser has no memory left. Nothing was changed; try it again.',
      )
    } finally {
      setShare(null)
    }
  }
  const { getRootProps, getInputProps, isDragActive, open } = useDropzone({
    onDropAccepted: files => void take(files),
    noClick: true,
    noKeyboard: true,
  })
  return (
    <Page>
      <div {...getRootProps()} className="mx-auto min-h-full max-w-[76rem]">
        <input {...getInputProps()} aria-label="Hand-over to check" />
        <input
          ref={folder}
          type="file"
          // @ts-expect-error: every browser has it, the types have not
          webkitdirectory=""
          aria-label="Folder to check"
          className="hidden"
          onChange={event => {
            void take([...(event.target.files ?? [])])
            event.target.value = ''
          }}
        />
        <PageHead
          title="Check a hand-over"
          from={{ to: '/projects', text: 'Projects' }}
          facts="Whether it is whole, and still what the library holds"
          actions={
            <>
              <Button onClick={open}>Choose a zip or a manifest</Button>
              <Button onClick={() => folder.current?.click()}>Choose a folder</Button>
            </>
          }
        />
        {share !== null && (
          <div role="status" className="mb-4">
            <p className="mb-1 text-xs text-quiet">Comparing the files</p>
            <Progress share={share} label="Comparing the files" />
          </div>
        )}
        {problem && (
          <p role="alert" className="mb-4 border-l-2 border-ink pl-3 font-medium">
            {problem}
          </p>
        )}
        {checked ? (
          <Answer checked={checked} />
        ) : (
          <div
            className={`flex h-64 items-center justify-center rounded-sm border-2 border-dashed px-8 text-center ${isDragActive ? 'border-ink bg-sheet' : 'border-line text-quiet'}`}
          >
            Drop the folder that was handed over, its zip, or its manifest alone. The files stay here: they are compared on this
            machine.
          </div>
        )}
      </div>
    </Page>
  )
}

/** What is to be said of an item. */
interface ItemNews {
  missing: CheckedFile[]
  altered: CheckedFile[]
  standing: Standing | undefined
}

function Answer({ checked: { manifest, files, standing } }: { checked: Checked }) {
  const location = useLocation()
  const broken = files?.filter(f => f.state !== 'intact') ?? []
  const newsOf = (code: string): ItemNews => ({
    missing: broken.filter(f => f.code === code && f.state === 'missing'),
    altered: broken.filter(f => f.code === code && f.state === 'altered'),
    standing: standing.find(s => s.code === code),
  })
  const told = manifest.items
    .map(item => ({ item, news: newsOf(item.code) }))
    .filter(
      ({ news: n }) => n.missing.length + n.altered.length > 0 || (n.standing && (isOlder(n.standing) || n.standing.isWithdrawn)),
    )
  const { project } = manifest
  return (
    <>
      <div className="mb-4 flex items-center gap-4 rounded-sm bg-sheet px-4 py-3">
        <div className="min-w-0">
          <p className="font-medium">
            {project ? `${project.code} ${project.title}` : manifest.items.map(i => `${i.code} ${i.name}`).join(', ')}
          </p>
          <p className="text-xs text-quiet">
            {plural(manifest.items.length, 'item')}, handed over {format(new Date(manifest.exportedAt), 'd MMM yyyy HH:mm')}.{' '}
            {files
              ? `${files.length - broken.length} of ${plural(files.length, 'file')} are as they were handed over.`
              : 'Of a manifest alone the files were not compared.'}
          </p>
        </div>
        <div className="ml-auto flex items-center gap-3">
          {files && <TellDesk manifest={manifest} broken={broken} />}
          <Bring manifest={manifest} wanted={broken} />
        </div>
      </div>
      {told.length === 0 ? (
        <p className="text-quiet">
          {files ? 'Everything is there as it was handed over, and' : 'Everything'} is what the library holds today.
        </p>
      ) : (
        <ul aria-label="What is not as it should be" className="border-t border-line">
          {told.map(({ item, news }) => (
            <li key={item.code} className="grid grid-cols-[7rem_minmax(0,1fr)_minmax(0,2fr)] gap-4 border-b border-line py-2">
              <Link to={`/items/${item.code}`} state={{ behind: location }} className="figures text-xs underline hover:text-ink">
                {item.code}
              </Link>
              <span className="truncate font-medium">{item.name}</span>
              <span className="min-w-0 text-xs">
                {news.standing && isOlder(news.standing) && (
                  <span className="block">
                    version {item.version}, approved is {news.standing?.approved}
                  </span>
                )}
                {news.standing?.isWithdrawn && <span className="block">withdrawn from the library</span>}
                {[...news.missing, ...news.altered].map(f => (
                  <span key={f.path} className="block truncate" title={f.path}>
                    <span className="font-medium">{f.state}</span> {f.path}
                  </span>
                ))}
              </span>
            </li>
          ))}
        </ul>
      )}
    </>
  )
}

/** Lets the wall know what lies on this machine. */
function TellDesk({ manifest, broken }: { manifest: ExportManifest; broken: readonly CheckedFile[] }) {
  const [report, { isLoading, isSuccess }] = useReportDeskMutation()
  const [name, setName] = useState(() => readRemembered('desk name', z.string(), 'My desk'))
  const tell = async () => {
    remember('desk name', name.trim())
    const damaged = new Set(broken.map(f => f.code))
    const items = manifest.items.map(({ code, version }) => ({ code, version, isWhole: !damaged.has(code) }))
    const result = await report({ name, isAll: false, items })
    if (!result.data) return tellProblem(result.error)
    toast.success(`${plural(result.data.known, 'item')} on ${name.trim()}; the wall narrows by it.`)
  }
  return (
    <>
      <input
        value={name}
        onChange={event => setName(event.target.value)}
        aria-label="What this machine is called"
        maxLength={80}
        className={`${CONTROL} w-32`}
      />
      <Button onClick={tell} disabled={isLoading || isSuccess || name.trim() === ''}>
        {isSuccess ? 'It is known' : 'It lies here'}
      </Button>
    </>
  )
}

/** Brings exactly what is missing or altered, as a zip to unpack over the folder. */
function Bring({ manifest, wanted }: { manifest: ExportManifest; wanted: readonly CheckedFile[] }) {
  const [share, setShare] = useState<number | null>(null)
  const { source, project } = manifest
  if (wanted.length === 0 || !source) return null
  const bring = async () => {
    setShare(0)
    const brought = await startZip()
    let refused = 0
    for (const [i, { path }] of wanted.entries()) {
      const address = path.split('/').map(encodeURIComponent).join('/')
      const response = await fetch(`/api/projects/${source.projectId}/exports/${source.exportId}/files/${address}`).catch(
        () => null,
      )
      const file = response?.ok ? await response.blob().catch(() => null) : null
      if (file) await brought.add(path, file)
      else refused++
      setShare((i + 1) / wanted.length)
    }
    setShare(null)
    if (refused > 0)
      toast.error(`${plural(refused, 'file')} could not be had: the hand-over is no longer kept, or is not yours to see.`)
    if (refused === wanted.length) return
    saveBlob(await brought.close(), `${project?.code ?? 'item'}-missing.zip`)
  }
  return share === null ? (
    <div className="flex items-center gap-3">
      {wanted.some(f => f.state === 'altered') && (
        <p className="max-w-56 text-right text-xs text-quiet">Unpacked over the folder, they replace what was altered.</p>
      )}
      <Button variant="next" onClick={bring}>
        Bring {plural(wanted.length, 'file')}
      </Button>
    </div>
  ) : (
    <div className="w-48">
      <Progress share={share} label="Bringing the files" />
    </div>
  )
}
