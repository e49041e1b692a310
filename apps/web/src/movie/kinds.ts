/** What a movie can be. */
import type { MovieKind } from './film.ts'

export const MOVIE_KINDS: Record<MovieKind, { label: string; ending: string; help: string }> = {
  mp4: { label: 'MP4', ending: 'mp4', help: 'H.264: plays everywhere' },
  webm: { label: 'WebM', ending: 'webm', help: 'VP9: plays in browsers' },
  png: { label: 'PNG frames', ending: 'zip', help: 'One picture for each frame, without loss, in a ZIP' },
}

/** Sizes by the words for them, pixels. */
export const SIZES: Record<string, [width: number, height: number]> = {
  '1280 × 720': [1280, 720],
  '1920 × 1080': [1920, 1080],
  '3840 × 2160': [3840, 2160],
  '1080 × 1080': [1080, 1080],
  '1080 × 1920': [1080, 1920],
}

/** How many pictures each frame is the mean of, by the words for it. */
export const BLURS: Record<string, number> = { none: 1, '8 pictures': 8, '16 pictures': 16, '32 pictures': 32, '64 pictures': 64 } // prettier-ignore
