import createClient from 'openapi-fetch'

import type { components, paths } from './schema'
import { watching } from './work'

export type Schemas = components['schemas']
export type BuildView = Schemas['BuildView']
export type Results = Schemas['Results']
export type Finding = Schemas['FindingView']
export type FallLineView = Schemas['FallLineView']
export type Operation = Schemas['EditRequest']['operations'][number]
/** One kind of operation: what the core takes for it. */
export type Asked<Op extends Operation['op']> = Extract<Operation, { op: Op }>
export type Collection = Asked<'add'>['collection']
export type Answers = NonNullable<Asked<'write_recipe'>['answers']>

export const client = createClient<paths>({ baseUrl: '/' })
client.use(watching)

/** A request that the server refused: `problem` says what, where, and the way out. */
export class Refused extends Error {
  constructor(readonly problem: Schemas['Problem'], readonly status: number) {
    super(problem.message)
  }

  /** The edits made meanwhile, when the base was stale; else null. */
  get conflict(): Schemas['Conflict'] | null {
    return this.problem.code === 'stale-base' ? (this.problem as Schemas['Conflict']) : null
  }
}

/** Whether asking once more may help: the server was silent, or had trouble of its own. */
export function mayHelpToAskAgain(count: number, problem: Error): boolean {
  return count < 1 && problem instanceof Refused && (problem.status === 0 || problem.status >= 500)
}

const UNREACHABLE = {
  code: 'unreachable',
  where: 'server',
  message: 'Oilstone does not answer. Start it again as you did; what you typed is still here.',
  mends: [],
}

interface Answer<T> {
  data?: T
  error?: unknown
  response: Response
}

/** The data of an answer; throws Refused with the server's words, or with ours when it is silent. */
export async function answered<T>(request: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>
  try {
    answer = await request
  } catch {
    throw new Refused(UNREACHABLE, 0)
  }
  if (answer.data !== undefined || answer.response.ok) return answer.data as T
  const error = answer.error as Partial<Schemas['Problem']> | undefined
  const problem = error?.message
    ? (error as Schemas['Problem'])
    : { code: 'unknown', where: 'server', message: `The server refused (${answer.response.status}).`, mends: [] }
  throw new Refused(problem, answer.response.status)
}
