// What went wrong, as the API tells it, and in words.
import type { components } from './schema'

type Problem = components['schemas']['Problem']

export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly problem: Partial<Problem>,
  ) {
    super(problem.detail ?? 'The server did not answer. Is Finchwort still running?')
  }

  get stale(): boolean {
    return this.status === 409 && this.problem.type === 'stale'
  }

  /** Nobody knows where bed or tip are: a look with paper would tell. */
  get unknownGround(): boolean {
    return this.problem.type === 'unknown-ground'
  }

  get keyTaken(): boolean {
    return this.status === 409 && this.problem.type === 'key-taken'
  }
}

export function sentence(error: unknown): string {
  return error instanceof Error ? error.message : 'Something went wrong.'
}
