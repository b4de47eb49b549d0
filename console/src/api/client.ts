// The calls of the contract, typed by what is generated from it.
import createClient from 'openapi-fetch'
import { at } from './below'
import type { components, paths } from './schema'

export type Schemas = components['schemas']
export type Catalog = Schemas['Catalog']
export type CatalogLine = Schemas['CatalogLine']
export type Report = Schemas['Report']
export type Parameter = Schemas['Parameter']
export type Entry = Schemas['Entry']
export type Fault = Schemas['Fault']
export type Problem = Schemas['Problem']
export type Resolution = Schemas['Resolution']
export type Run = Schemas['Run']
export type Result = Schemas['Result']
export type ResultLine = Schemas['ResultLine']
export type Sheet = Schemas['Sheet']
export type Column = Schemas['Column']
export type Opens = Schemas['Opens']
export type LineMark = Schemas['LineMark']
export type ChartData = Schemas['Chart']
export type KeptView = Schemas['KeptView']
export type ViewBody = Schemas['ViewBody']
export type OpenedFigure = Schemas['OpenedFigure']
export type Outlined = Schemas['Outline']['groups'][number]
export type Desk = Schemas['Desk']
export type Tile = Schemas['Tile']
export type Parcel = Schemas['Parcel']
export type Address = Schemas['Address']
export type AddressChange = Schemas['AddressChange']
export type Letter = Schemas['Letter']
export type Send = Schemas['Send']
export type Split = Schemas['Split']
export type TimetableOf = Schemas['TimetableOf']
export type Take = Schemas['Take']
export type Export = Schemas['Export']
export type Service = Schemas['Service']
export type Preset = Schemas['Preset']
export type Who = Schemas['Who']
export type Form = Schemas['Form']
export type Criteria = Schemas['Criteria']
export type PastControl = Schemas['PastControl']
export type Control = Schemas['Control']
export type ControlChange = Schemas['ControlChange']
export type Step = Schemas['Step']
export type ControlRun = Schemas['ControlRun']
export type Person = Schemas['Person']
export type Group = Schemas['Group']
export type Role = Schemas['Role']
export type Opening = Schemas['Opening']
export type Draft = Schemas['Draft']
export type DraftLine = Schemas['DraftLine']
export type Findings = Schemas['Findings']
export type Effect = Schemas['Effect']
export type Version = Schemas['Version']
export type SourceTable = Schemas['SourceTable']
export type Notice = Schemas['Notice']
export type Values = Record<string, string>

export const api = createClient<paths>({ baseUrl: at('/api') })

/** A failed call, with the service's own account of it. */
export class Refusal extends Error {
  readonly problem: Problem
  constructor(problem: Problem) {
    super(problem.detail)
    this.problem = problem
  }
}

type Answer<T> = { data?: T; error?: unknown; response: Response }

/** Returns the data of a call or throws its problem. */
export async function answer<T>(call: Promise<Answer<T>>): Promise<T> {
  let got: Answer<T>
  try {
    got = await call
  } catch {
    throw new Refusal(
      problem('The service cannot be reached', 'Check that it is running, then try again.', 0),
    )
  }
  if (got.response.ok) return got.data as T
  throw new Refusal(
    isProblem(got.error)
      ? got.error
      : problem('The service did not answer as expected', got.response.statusText, got.response.status),
  )
}

function problem(title: string, detail: string, status: number): Problem {
  return { type: 'internal', title, detail, status, fields: [] }
}

function isProblem(e: unknown): e is Problem {
  return typeof e === 'object' && e !== null && 'title' in e && 'fields' in e
}
