import { MantineProvider } from '@mantine/core'
import { DatesProvider } from '@mantine/dates'
import { MutationCache, QueryCache, QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { createBrowserRouter, RouterProvider } from 'react-router'
import { below } from '../api/below'
import { Refusal } from '../api/client'
import { CatalogPage } from '../catalog/CatalogPage'
import { ControlPage } from '../controls/ControlPage'
import { ControlsPage } from '../controls/ControlsPage'
import { DeskPage } from '../desk/DeskPage'
import { OfficePage } from '../office/OfficePage'
import { OpenPage } from '../report/OpenPage'
import { TrashPage } from '../trash/TrashPage'
import { ReportPage } from '../report/ReportPage'
import { ResultPage } from '../result/ResultPage'
import { ResultsPage } from '../results/ResultsPage'
import { RunPage } from '../runs/RunPage'
import { RunsPage } from '../runs/RunsPage'
import { BrokenPage } from './BrokenPage'
import { LostPage } from './LostPage'
import { Shell } from './Shell'
import { theme, variables } from './theme'

// When the session has ended, the sign-in page stands over the place.
function ended(error: Error) {
  if (error instanceof Refusal && error.problem.type === 'signed-out') queries.setQueryData(['session'], null)
}

const queries: QueryClient = new QueryClient({
  queryCache: new QueryCache({ onError: ended }),
  mutationCache: new MutationCache({ onError: ended }),
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      refetchOnWindowFocus: false,
      // Only a service that could not be reached is worth asking again.
      retry: (times, error) => times < 2 && error instanceof Refusal && error.problem.status === 0,
    },
  },
})

const router = createBrowserRouter(
  [
    {
      element: <Shell />,
      errorElement: <BrokenPage />,
      children: [
        { path: '/', element: <DeskPage /> },
        { path: '/catalog', element: <CatalogPage /> },
        { path: '/reports/:report', element: <ReportPage /> },
        { path: '/open/:report', element: <OpenPage /> },
        { path: '/controls', element: <ControlsPage /> },
        { path: '/controls/:control', element: <ControlPage /> },
        { path: '/runs', element: <RunsPage /> },
        { path: '/runs/:run', element: <RunPage /> },
        { path: '/trash', element: <TrashPage /> },
        { path: '/results', element: <ResultsPage /> },
        { path: '/results/:result', element: <ResultPage /> },
        {
          path: '/timetable',
          lazy: async () => ({ Component: (await import('../timetable/TimetablePage')).TimetablePage }),
        },
        {
          path: '/sending',
          lazy: async () => ({ Component: (await import('../sending/SendingPage')).SendingPage }),
        },
        { path: '/office', element: <OfficePage /> },
        {
          path: '/office/drafts/:draft',
          lazy: async () => ({ Component: (await import('../office/drafts/DraftPage')).DraftPage }),
        },
        { path: '*', element: <LostPage /> },
      ],
    },
  ],
  { basename: below || '/' },
)

export function App() {
  return (
    <MantineProvider theme={theme} cssVariablesResolver={variables} defaultColorScheme="auto">
      <QueryClientProvider client={queries}>
        <DatesProvider settings={{ firstDayOfWeek: 1, weekendDays: [] }}>
          <RouterProvider router={router} />
        </DatesProvider>
      </QueryClientProvider>
    </MantineProvider>
  )
}
