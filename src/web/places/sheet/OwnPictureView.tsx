import { format } from 'date-fns'
import { useDropzone } from 'react-dropzone'
import { toast } from 'sonner'
import type { Sheet } from '#shared/contracts/items.contract'
import type { OwnPicture } from '#shared/contracts/own-picture.contract'
import { tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { PathText } from '../../components/PathText'
import { useBringOwnPictureMutation, useSetOwnPicturesMutation, useTakeDeliveredPictureMutation } from '../../state/api'
import { describeScore } from '../../words/pictures'

const ACCEPT = { 'image/*': ['.png', '.jpg', '.jpeg', '.webp', '.tif', '.tiff'], 'image/vnd.radiance': ['.hdr', '.exr'] }

/** The picture that stands in the place of the rig's, and how another gets there: dropped here, or one that came along. */
export function OwnPictureView({ sheet, mayChange }: { sheet: Sheet; mayChange: boolean }) {
  const [bring, { isLoading: isSending }] = useBringOwnPictureMutation()
  const [take, { isLoading: isTaking }] = useTakeDeliveredPictureMutation()
  const { ownPicture, pendingPicture } = sheet
  const onFiles = async ([file]: File[]) => {
    if (!file) return
    const result = await bring({ id: sheet.id, file })
    if (result.error) tellProblem(result.error)
  }
  const { getRootProps, getInputProps, isDragActive, open } = useDropzone({
    accept: ACCEPT,
    multiple: false,
    noClick: true,
    disabled: !mayChange || isSending,
    onDropAccepted: onFiles,
    onDropRejected: () => toast.warning('One PNG, JPEG, WebP, TIFF, Radiance HDR or OpenEXR file at a time.'),
  })
  const onTake = async (hash: string) => {
    const result = await take({ id: sheet.id, hash })
    if (result.error) tellProblem(result.error)
  }
  const delivered = sheet.files.filter(f => f.role === 'picture')
  const busy = isSending
    ? 'The picture is on its way.'
    : pendingPicture?.state === 'reducing'
      ? 'The picture is being reduced.'
      : ''
  return (
    <div {...getRootProps()} className={isDragActive ? 'outline-2 outline-offset-2 outline-ink' : ''}>
      <input {...getInputProps()} aria-label="Picture file" />
      <div className="flex aspect-[4/3] w-full items-center justify-center bg-mount">
        {ownPicture?.url ? (
          <img src={ownPicture.url} alt={`${sheet.name} as somebody chose to show it`} className="size-full object-contain" />
        ) : (
          <div className="flex max-w-md flex-col items-center gap-3 px-8 text-center">
            <p className="text-quiet">
              The wall shows what the rig rendered. Where a rig cannot do an item justice, drop a picture here; it is marked as
              its own, and goes with this version only.
            </p>
          </div>
        )}
      </div>
      {busy && (
        <p role="status" className="mt-2 text-quiet">
          {busy}
        </p>
      )}
      {pendingPicture?.state === 'refused' && <Refused picture={pendingPicture} />}
      {ownPicture && <Caption picture={ownPicture} />}
      {mayChange && (
        <div className="mt-3 flex flex-wrap items-center gap-2">
          <Button onClick={open} disabled={isSending}>
            {ownPicture ? 'Choose another' : 'Choose a picture'}
          </Button>
          {ownPicture && <BackToRig picture={ownPicture} />}
        </div>
      )}
      {mayChange && delivered.length > 0 && (
        <section className="mt-4">
          <h3 className="mb-1 font-medium">Came along with it</h3>
          <ul className="border-t border-line">
            {delivered.map(f => (
              <li key={f.url} className="flex items-center gap-3 border-b border-line py-1">
                <PathText path={f.path} className="flex-1 text-xs" />
                <Button variant="bare" disabled={isTaking} onClick={() => onTake(f.hash)}>
                  Show this one
                </Button>
              </li>
            ))}
          </ul>
        </section>
      )}
    </div>
  )
}

function Caption({ picture }: { picture: OwnPicture }) {
  const reduced =
    picture.originalWidth !== picture.width ? `, reduced from ${picture.originalWidth} × ${picture.originalHeight}` : ''
  return (
    <p className="mt-2 text-xs text-quiet">
      {picture.fileName}, {picture.width} × {picture.height} px{reduced}; set by {picture.by},{' '}
      {format(new Date(picture.at), 'd MMM yyyy HH:mm')}. As a preview: {describeScore(picture)}.
    </p>
  )
}

function Refused({ picture }: { picture: OwnPicture }) {
  const [set] = useSetOwnPicturesMutation()
  return (
    <p role="alert" className="mt-2 flex items-center gap-2">
      <span>
        {picture.fileName} was not taken: {picture.reason} What was shown before stays.
      </span>
      <Button variant="bare" onClick={() => set({ ids: [picture.id], isDropped: true })}>
        Dismiss
      </Button>
    </p>
  )
}

function BackToRig({ picture }: { picture: OwnPicture }) {
  const [set, { isLoading }] = useSetOwnPicturesMutation()
  const onBack = async () => {
    const result = await set({ ids: [picture.id], isDropped: true })
    if (result.error) tellProblem(result.error)
    else
      toast("The rig's picture is shown again.", {
        action: { label: 'Undo', onClick: () => set({ ids: [picture.id], isDropped: false }) },
      })
  }
  return (
    <Button variant="bare" onClick={onBack} disabled={isLoading}>
      Back to the rig&apos;s picture
    </Button>
  )
}
