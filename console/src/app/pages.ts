// The pages of the console. Each is loaded when it is first visited, or before, when there is time.

const load = {
  desk: async () => ({ Component: (await import('../desk/DeskPage')).DeskPage }),
  catalog: async () => ({ Component: (await import('../catalog/CatalogPage')).CatalogPage }),
  report: async () => ({ Component: (await import('../report/ReportPage')).ReportPage }),
  open: async () => ({ Component: (await import('../report/OpenPage')).OpenPage }),
  run: async () => ({ Component: (await import('../runs/RunPage')).RunPage }),
  result: async () => ({ Component: (await import('../result/ResultPage')).ResultPage }),
  results: async () => ({ Component: (await import('../results/ResultsPage')).ResultsPage }),
  controls: async () => ({ Component: (await import('../controls/ControlsPage')).ControlsPage }),
  control: async () => ({ Component: (await import('../controls/ControlPage')).ControlPage }),
  runs: async () => ({ Component: (await import('../runs/RunsPage')).RunsPage }),
  timetable: async () => ({ Component: (await import('../timetable/TimetablePage')).TimetablePage }),
  sending: async () => ({ Component: (await import('../sending/SendingPage')).SendingPage }),
  trash: async () => ({ Component: (await import('../trash/TrashPage')).TrashPage }),
  office: async () => ({ Component: (await import('../office/OfficePage')).OfficePage }),
  guide: async () => ({ Component: (await import('../guide/GuidePage')).GuidePage }),
  draft: async () => ({ Component: (await import('../office/drafts/DraftPage')).DraftPage }),
}

export const routes = [
  { path: '/', lazy: load.desk },
  { path: '/catalog', lazy: load.catalog },
  { path: '/reports/:report', lazy: load.report },
  { path: '/open/:report', lazy: load.open },
  { path: '/controls', lazy: load.controls },
  { path: '/controls/:control', lazy: load.control },
  { path: '/runs', lazy: load.runs },
  { path: '/runs/:run', lazy: load.run },
  { path: '/trash', lazy: load.trash },
  { path: '/results', lazy: load.results },
  { path: '/results/:result', lazy: load.result },
  { path: '/timetable', lazy: load.timetable },
  { path: '/sending', lazy: load.sending },
  { path: '/guide', lazy: load.guide },
  { path: '/guide/:page', lazy: load.guide },
  { path: '/office', lazy: load.office },
  { path: '/office/drafts/:draft', lazy: load.draft },
]

/** Loads the pages that nearly everybody visits, one after another, once nothing else is to be done. */
export function loadAhead() {
  const often = [load.catalog, load.report, load.run, load.result, load.results, load.runs, load.controls]
  const idle = window.requestIdleCallback ?? ((then: () => void) => setTimeout(then, 1000))
  const next = () => {
    const page = often.shift()
    if (page) void page().then(() => idle(next), undefined) // what fails now is told when it is visited
  }
  idle(next)
}
