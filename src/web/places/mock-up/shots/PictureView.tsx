import { useState } from 'react'
import type { MockUpPicture } from '#shared/contracts/mock-ups.contract'
import { Tabs } from '../../../components/controls/Tabs'
import { Modal } from '../../../components/dialogs/Modal'
import { toImageData } from '../../../components/tracing/to-image-data'
import { LoadedLayer } from '../../compare/LoadedLayer'
import { PAIR_MODES, type PairMode, PairView } from '../../compare/PairView'
import { PictureStage, type Spot } from '../../compare/PictureStage'
import { usePictures } from '../../compare/use-pictures'
import { type View, WHOLE } from '../../compare/view-state'
import { captionOf } from './caption'

/** One rendering close up, or two over each other with their difference in numbers. */
export function PictureView({ pictures, onClose }: { pictures: readonly MockUpPicture[]; onClose: () => void }) {
  const [mode, setMode] = useState<PairMode>('wiper')
  const [view, setView] = useState<View>(WHOLE)
  const [spot, setSpot] = useState<Spot | null>(null)
  const compared = pictures.map(p => ({ name: captionOf(p), preview: p.url ? { url: p.url, linearUrl: p.linearUrl } : null }))
  const loaded = usePictures(compared, p => toImageData(p.display))
  const [first] = pictures
  const aspect = first.width && first.height ? first.width / first.height : undefined
  if (pictures.length === 1)
    return (
      <Modal title={captionOf(first)} width="whole" onClose={onClose}>
        <div className="mx-auto" style={{ maxWidth: `calc((100vh - 11rem) * ${aspect ?? 1.6})` }}>
          <PictureStage label={captionOf(first)} view={view} onView={setView} spot={spot} onSpot={setSpot} aspect={aspect}>
            <LoadedLayer loaded={loaded[0]} view={view} />
          </PictureStage>
        </div>
      </Modal>
    )
  return (
    <Modal title="Two renderings" width="whole" onClose={onClose}>
      <div className="mb-3">
        <Tabs label="Way of comparing" tabs={PAIR_MODES} value={mode} onChange={setMode} />
      </div>
      <PairView
        mode={mode}
        compared={compared}
        pictures={loaded}
        pair={[0, 1]}
        onPair={() => {}}
        view={view}
        onView={setView}
        spot={spot}
        onSpot={setSpot}
        aspect={aspect}
        caption={index => (
          <p>
            <span className="figures mr-2">{'AB'[index]}</span>
            {captionOf(pictures[index])}
          </p>
        )}
      />
    </Modal>
  )
}
