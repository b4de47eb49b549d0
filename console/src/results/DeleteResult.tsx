import { Remove } from '../parts/Remove'
import { useDeleteResult } from './useDeleteResult'

type Props = { result: string; title: string }

/** Deletes a result, once it was made clear how it comes back. */
export function DeleteResult({ result, title }: Props) {
  return <Remove {...useDeleteResult(result, title)} />
}
