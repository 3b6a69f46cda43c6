import { useParams } from 'react-router'
import { Trouble } from '../../components/Notice'
import { useGetMockUpQuery } from '../../state/api'
import { MockUpDesk } from './MockUpDesk'

/** A mock-up by its address. */
export default function MockUpPlace() {
  const id = Number(useParams().id)
  const { data, error, refetch } = useGetMockUpQuery({ id })
  if (error) return <Trouble error={error} onRetry={refetch} />
  if (!data || data.id !== id) return null
  return <MockUpDesk key={id} mockUp={data} />
}
