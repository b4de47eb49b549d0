import { MantineProvider } from '@mantine/core'
import { MutationCache, QueryCache, QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { useEffect } from 'react'
import { createBrowserRouter, RouterProvider } from 'react-router'
import { below } from '../api/below'
import { Refusal } from '../api/client'
import { BrokenPage } from './BrokenPage'
import { LostPage } from './LostPage'
import { loadAhead, routes } from './pages'
import { Shell } from './Shell'
import { theme, variables } from './theme'
import { followWindows, tellWindows } from './windows'

// When the session has ended, the sign-in page stands over the place.
function ended(error: Error) {
  if (error instanceof Refusal && error.problem.type === 'signed-out') queries.setQueryData(['session'], null)
}

const queries: QueryClient = new QueryClient({
  queryCache: new QueryCache({ onError: ended }),
  mutationCache: new MutationCache({ onError: ended, onSuccess: tellWindows }),
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      refetchOnWindowFocus: false,
      // Only a service that could not be reached is worth asking again.
      retry: (times, error) => times < 2 && error instanceof Refusal && error.problem.status === 0,
    },
  },
})

followWindows(queries)

const router = createBrowserRouter(
  [
    {
      element: <Shell />,
      hydrateFallbackElement: <></>, // nothing, while the first page is loaded
      errorElement: <BrokenPage />,
      children: [...routes, { path: '*', element: <LostPage /> }],
    },
  ],
  { basename: below || '/' },
)

export function App() {
  useEffect(loadAhead, [])
  return (
    <MantineProvider theme={theme} cssVariablesResolver={variables} defaultColorScheme="auto">
      <QueryClientProvider client={queries}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </MantineProvider>
  )
}
