import { useDropzone } from 'react-dropzone'
import { Button } from '../../../components/controls/Button'
import { toDropped } from './dropped-path'
import type { DroppedFile } from './upload-queue'

/** A second place to drop the same delivery on. */
export function DropMore({ onFiles }: { onFiles: (files: DroppedFile[]) => void }) {
  const { getRootProps, getInputProps, isDragActive, open } = useDropzone({
    onDropAccepted: files => onFiles(toDropped(files)),
    noClick: true,
  })
  return (
    <div
      {...getRootProps()}
      className={`flex items-center gap-3 rounded-sm border-2 border-dashed p-6 ${isDragActive ? 'border-ink' : 'border-line'}`}
    >
      <input {...getInputProps()} />
      <span>Drop the delivery here</span>
      <Button onClick={open}>Choose files</Button>
    </div>
  )
}
