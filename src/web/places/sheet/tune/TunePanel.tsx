import { useCallback, useEffect, useMemo, useState } from 'react'
import { toast } from 'sonner'
import { OPEN_PBR_DEFAULTS, type OpenPbrParameters } from '#core/material/open-pbr'
import { NO_ORBIT } from '#core/render/film/camera'
import type { Sheet } from '#shared/contracts/items.contract'
import { formatNumber } from '#shared/units'
import { tellProblem } from '../../../components/bulk-words'
import { Button } from '../../../components/controls/Button'
import { PreviewFrame } from '../../../components/PreviewFrame'
import { useEditItemMutation } from '../../../state/api'
import type { TracedSubject } from '../../../workers/preview.worker'
import { PictureLayer } from '../../compare/PictureStage'
import { WHOLE } from '../../compare/view-state'
import { shownWidthOf, TARGET_STEPS, type TracedPicture, useTracedPicture } from '../traced/use-traced-picture'
import { loadTunableMaterial, type TunableMaterial } from './load-material'
import { ParameterFields } from './ParameterFields'

const LARGEST_TRACED = 512

/** The stored picture, and beside it the same material path-traced here and now with other parameters, on the same rig. */
export default function TunePanel({ sheet }: { sheet: Sheet }) {
  const original = useMemo(() => knownConstants(sheet), [sheet])
  const [constants, setConstants] = useState(original)
  const [material, setMaterial] = useState<TunableMaterial | null>(null)
  const [failed, setFailed] = useState(false)
  const [edit, { isLoading }] = useEditItemMutation()
  const versionId = sheet.version.id
  // biome-ignore lint/correctness/useExhaustiveDependencies: another version, another material
  useEffect(() => {
    let live = true
    setConstants(original)
    setFailed(false)
    setMaterial(null)
    loadTunableMaterial(sheet).then(
      loaded => live && setMaterial(loaded),
      () => live && setFailed(true),
    )
    return () => {
      live = false
    }
  }, [versionId])
  const backdrop = sheet.preview?.backdropAlbedo ?? sheet.rig.backdrops[0]
  const subject = useMemo(
    (): TracedSubject | null =>
      material && { kind: 'material', images: material.images, heights: material.heights, material: material.build({}) },
    [material],
  )
  const [width, setWidth] = useState(0)
  const measure = useCallback((frame: HTMLDivElement | null) => {
    if (frame) setWidth(shownWidthOf(frame, LARGEST_TRACED))
  }, [])
  const look = material && width > 0 ? { material: material.build(constants), orbit: NO_ORBIT } : null
  const picture = useTracedPicture(subject, look, sheet.rig, backdrop, width)
  const mapped = useMemo(() => new Set(material ? Object.keys(material.build({}).textures) : []), [material])
  const isChanged = JSON.stringify(constants) !== JSON.stringify(original)
  const save = async () => {
    const result = await edit({ id: sheet.id, constants })
    if (result.error) tellProblem(result.error)
    else
      toast(`Saved as version ${sheet.versions[0].number + 1}. The approved version stays until somebody approves the new one.`)
  }
  return (
    <div>
      <div className="grid grid-cols-2 gap-3">
        <figure>
          <PreviewFrame url={sheet.preview?.url ?? null} alt={`Stored preview of ${sheet.name}`} />
          <figcaption className="mt-1 text-xs text-quiet">stored, version {sheet.version.number}</figcaption>
        </figure>
        <figure data-tuned={isChanged ? 'changed' : 'original'}>
          <div ref={measure} className="relative aspect-[4/3] w-full overflow-hidden bg-mount">
            {picture.image ? (
              <PictureLayer image={picture.image} view={WHOLE} />
            ) : (
              <p className="flex size-full items-center justify-center px-4 text-center text-xs text-quiet">
                {failed ? 'A map did not arrive. Reload the page to try again; nothing was changed.' : 'reading the maps'}
              </p>
            )}
          </div>
          <figcaption className="mt-1 text-xs text-quiet">
            {isChanged ? 'as tuned' : 'the same, traced here'}
            {picture.image && <span className="figures">, {describePicture(picture)}</span>}
          </figcaption>
        </figure>
      </div>
      <div className="my-3 flex min-h-8 items-center gap-2">
        {sheet.mayEdit && (
          <Button variant="next" disabled={!isChanged || isLoading} onClick={save}>
            Save as version {sheet.versions[0].number + 1}
          </Button>
        )}
        <Button variant="bare" disabled={!isChanged} onClick={() => setConstants(original)}>
          As it was
        </Button>
        <span className="text-xs text-quiet">Nothing is changed for anybody until it is saved.</span>
      </div>
      <ParameterFields {...{ constants, original, mapped }} onChange={setConstants} />
    </div>
  )
}

function describePicture({ state, error, seconds, samplesAPixel }: TracedPicture): string {
  const time = `${formatNumber(seconds, 1)} s`
  if (error === null) return `first look, ${time}`
  const steps = error * 255
  // Of some glass what is left does not fall below it with as many samples as are taken.
  const end = state !== 'done' ? '' : steps > TARGET_STEPS ? ', as far as it goes' : ', done'
  return `error ${formatNumber(steps, 1)} of 255, ${formatNumber(samplesAPixel, 0)} samples a pixel, ${time}${end}`
}

const knownConstants = (sheet: Sheet): Partial<OpenPbrParameters> =>
  Object.fromEntries(Object.entries(sheet.constants).filter(([key]) => key in OPEN_PBR_DEFAULTS))
