import { toast } from 'sonner'
import { tellProblem } from '../../components/bulk-words'
import { useReadLookMutation } from '../../state/api'

/** Measures what a dropped or chosen picture looks like; `onLook` gets it as the address holds it. */
export function usePictureLook(onLook: (look: string) => void): { isReading: boolean; read: (files: FileList | null) => void } {
  const [readLook, { isLoading }] = useReadLookMutation()
  const read = async (files: FileList | null) => {
    const file = [...(files ?? [])].find(f => f.type.startsWith('image/') || /\.(png|jpe?g|webp|tiff?|exr|hdr)$/i.test(f.name))
    if (!file) {
      toast.warning('That is no picture. Drop a photograph or a texture here to find what looks like it.')
      return
    }
    const result = await readLook(file)
    if (result.data) onLook(result.data.look)
    else tellProblem(result.error)
  }
  return { isReading: isLoading, read }
}
