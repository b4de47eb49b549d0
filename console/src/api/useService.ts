import { useQuery } from '@tanstack/react-query'
import { answer, api } from './client'

/** What the service says of itself: whose it is, its today, what it lets people do. */
export const useService = () =>
  useQuery({ queryKey: ['service'], queryFn: () => answer(api.GET('/service')) })
