/** A database that is away is told from a question that is wrong, and waited for. */
import { QueryFailedError, QueryRunnerAlreadyReleasedError } from 'typeorm'
import { isAway, persistently } from '../src/store/connection.ts'

const coded = (code: string, message = 'x') => Object.assign(new Error(message), { code })

test.each([
  // PostgreSQL, appendix A: connection exceptions, admin_shutdown, crash_shutdown, cannot_connect_now, too_many_connections
  ...['08006', '08001', '57P01', '57P02', '57P03', '53300', '25P03'].map((code) => coded(code)),
  ...['ECONNREFUSED', 'ECONNRESET', 'EPIPE', 'ETIMEDOUT'].map((code) => coded(code)),
  new QueryFailedError('SELECT 1', [], coded('57P01', 'terminating connection')),
  new AggregateError([coded('ECONNREFUSED')]),
  new Error('Connection terminated unexpectedly'),
  new Error('Client has encountered a connection error and is not queryable'),
  new Error('timeout exceeded when trying to connect'),
  new QueryRunnerAlreadyReleasedError(),
  new Error(
    'Database connection provided by a query runner was already released, cannot continue to use its querying methods anymore.',
  ),
])('%s: the database is away', (error) => expect(isAway(error)).toBe(true))

test.each([
  coded('23505', 'duplicate key'),
  coded('22P05', 'unsupported Unicode escape sequence'),
  coded('42601', 'syntax error'),
  new QueryFailedError('SELECT 1', [], coded('23503')),
  new Error('Only 3 of 4 frames are stored'),
  'not an error',
  null,
])('%s: it is there, and something else is wrong', (error) => expect(isAway(error)).toBe(false))

test('work is done again while the database is away, and once it is back no more', async () => {
  let tries = 0
  const answer = await persistently(() => {
    tries++
    return tries < 3 ? Promise.reject(coded('ECONNREFUSED')) : Promise.resolve('done')
  })
  expect([answer, tries]).toEqual(['done', 3])
})

test('what is wrong is not tried again', async () => {
  let tries = 0
  const work = () => {
    tries++
    return Promise.reject(coded('23505'))
  }
  await expect(persistently(work)).rejects.toMatchObject({ code: '23505' })
  expect(tries).toBe(1)
})

test('waiting ends with the reason of its signal, at once', async () => {
  const ending = new AbortController()
  const waiting = persistently(() => Promise.reject(coded('ECONNREFUSED')), ending.signal)
  setTimeout(() => ending.abort(new Error('stopping')), 100)
  const began = performance.now()
  await expect(waiting).rejects.toThrow('stopping')
  expect(performance.now() - began).toBeLessThan(2000)
})
