import type { MeshFacts, Measures, Shot } from '@tangle/core'
import { createApi, fetchBaseQuery } from '@reduxjs/toolkit/query/react'
import type { Take } from './take.ts'
import { watchTakes } from './takeEvents.ts'

export type { Take } from './take.ts'

export interface ShotCard {
  id: string
  name: string
  version: number
  changedAt: string
  frames: Shot['frames']
  populations: number
  /** Whether there is a picture of it. */
  pictured: boolean
  /** Whether pictures of some of its frames are kept. */
  moves: boolean
}
export interface StoredMesh {
  asset: string
  name: string
  file: string
  bytes: number
  facts: MeshFacts
  sample: boolean
}
export type TakeAction =
  'cancel' | 'retry' | 'restore' | 'pause' | 'resume' | 'first' | 'protect' | 'unprotect'
export interface TakeDetails extends Take {
  document: Shot
  facts: {
    frame: number
    particles: number
    milliseconds: number
    fingerprint: string
    bytes: number
    measures: Measures
  }[]
}
/** A value of the shot that a sweep varies, and what it is to be. */
export interface SweepAxis {
  path: (string | number)[]
  values: number[]
}
/** Bytes that a page which is left may still send: the standard allows 64 KiB to all such requests together. */
export const KEPT_ALIVE = 60_000
/** What takes occupy and may, bytes, and the folder of the server in which they can be written. */
export interface Space {
  takes: number
  quota: number | null
  folder: string | null
}
type OpenShot = { id: string; name: string; document: Shot; version: number }

export const api = createApi({
  reducerPath: 'api',
  baseQuery: fetchBaseQuery({ baseUrl: '/api' }),
  tagTypes: ['Shots', 'Takes', 'Meshes'],
  endpoints: (build) => ({
    shots: build.query<ShotCard[], void>({ query: () => 'shots', providesTags: ['Shots'] }),
    shot: build.query<OpenShot, string>({ query: (id) => `shots/${id}`, keepUnusedDataFor: 0 }),
    createShot: build.mutation<{ id: string }, { name: string; document?: Shot }>({
      query: (body) => ({ url: 'shots', method: 'POST', body }),
      invalidatesTags: ['Shots'],
    }),
    saveShot: build.mutation<{ version: number }, { id: string; version: number; document: Shot }>({
      // the page may be left while it is under way
      query: ({ id, ...body }) => ({
        url: `shots/${id}`,
        method: 'PUT',
        body,
        keepalive: JSON.stringify(body).length < KEPT_ALIVE,
      }),
      invalidatesTags: ['Shots'],
    }),
    duplicateShot: build.mutation<{ id: string }, string>({
      query: (id) => ({ url: `shots/${id}/duplicate`, method: 'POST' }),
      invalidatesTags: ['Shots'],
    }),
    deleteShot: build.mutation<void, string>({
      query: (id) => ({ url: `shots/${id}`, method: 'DELETE' }),
      invalidatesTags: ['Shots'],
    }),
    deletedShots: build.query<ShotCard[], void>({ query: () => 'shots?deleted=1', providesTags: ['Shots'] }),
    restoreShot: build.mutation<void, string>({
      query: (id) => ({ url: `shots/${id}/restore`, method: 'POST' }),
      invalidatesTags: ['Shots'],
    }),
    meshes: build.query<StoredMesh[], void>({ query: () => 'meshes', providesTags: ['Meshes'] }),
    uploadMesh: build.mutation<StoredMesh, { name: string; bytes: Blob }>({
      query: ({ name, bytes }) => ({
        url: `meshes?name=${encodeURIComponent(name)}`,
        method: 'POST',
        body: bytes,
        headers: { 'content-type': 'application/octet-stream' },
      }),
      invalidatesTags: ['Meshes'],
    }),
    takes: build.query<Take[], string>({
      query: (id) => `shots/${id}/takes`,
      providesTags: ['Takes'],
      // the server says when something has changed
      async onCacheEntryAdded(id, { updateCachedData, cacheEntryRemoved }) {
        const stop = watchTakes(id, (takes) => void updateCachedData(() => takes))
        await cacheEntryRemoved
        stop()
      },
    }),
    deletedTakes: build.query<Take[], string>({ query: (id) => `shots/${id}/takes?deleted=1`, providesTags: ['Takes'] }), // prettier-ignore
    take: build.query<TakeDetails, string>({ query: (id) => `takes/${id}` }),
    makeTake: build.mutation<Take, { id: string; version: number }>({
      query: ({ id, version }) => ({ url: `shots/${id}/takes`, method: 'POST', body: { version } }),
      invalidatesTags: ['Takes'],
    }),
    takeAction: build.mutation<void, { id: string; action: TakeAction }>({
      query: ({ id, action }) => ({ url: `takes/${id}/${action}`, method: 'POST' }),
      invalidatesTags: ['Takes'],
    }),
    clearTakes: build.mutation<{ takes: string[]; bytes: number }, { id: string; keep: number }>({
      query: ({ id, keep }) => ({ url: `shots/${id}/clear`, method: 'POST', body: { keep } }),
      invalidatesTags: ['Takes'],
    }),
    makeSweep: build.mutation<
      { sweep: string; takes: Take[] },
      { id: string; version: number; axes: SweepAxis[] }
    >({
      query: ({ id, ...body }) => ({ url: `shots/${id}/sweeps`, method: 'POST', body }),
      invalidatesTags: ['Takes'],
    }),
    space: build.query<Space, void>({ query: () => 'space', keepUnusedDataFor: 60 }),
    writeTake: build.mutation<
      { folder: string; files: number },
      { id: string; asked: Record<string, string> }
    >({
      query: ({ id, asked }) => ({ url: `takes/${id}/files`, method: 'POST', body: asked }),
    }),
    deleteTake: build.mutation<void, string>({
      query: (id) => ({ url: `takes/${id}`, method: 'DELETE' }),
      invalidatesTags: ['Takes'],
    }),
  }),
})

/** The sentence of a failed request. */
export function faultOf(error: unknown): string {
  const { data, status } = error as { data?: { error?: { message?: string } }; status?: unknown }
  return (
    data?.error?.message ??
    (status === 'FETCH_ERROR' ? 'The server does not answer: is Tangle still running?' : 'The request failed')
  )
}
