/**
 * Files of a ZIP. The library that unpacks believes what it reads, so that a cut or damaged file would give nonsense: here every header and every sum is
 * checked. Source: PKWARE, APPNOTE.TXT 6.3.10, 4.3 (from memory).
 */
import crc32 from 'crc-32'
import { unzipSync, type Unzipped } from 'fflate'
import { FormatFault } from '../fault.ts'

const END = 0x06054b50
const ENTRY = 0x02014b50
const LOCAL = 0x04034b50
/** Bytes of an end without comment, of an entry without names. */
const END_SIZE = 22
const ENTRY_SIZE = 46
/** What stands in a field whose value is in a 64 bit one. */
const ELSEWHERE = 0xffffffff

/** @param wanted which files, by name and bytes when unpacked. @throws FormatFault when it is no ZIP, is cut off or damaged, or has a password. */
export function unzip(bytes: Uint8Array, wanted: (name: string, size: number) => boolean): Unzipped {
  const sums = entriesOf(bytes)
  let entry = -1
  const order = new Map<string, number>()
  let files: Unzipped
  try {
    files = unzipSync(bytes, {
      filter: ({ name, originalSize }) => {
        entry++
        const takes = wanted(name, originalSize)
        if (takes) order.set(name, entry)
        return takes
      },
    })
  } catch (error) {
    if (error instanceof FormatFault) throw error
    throw broken((error as Error).message)
  }
  for (const [name, k] of order)
    if (crc32.buf(files[name]!) !== sums[k])
      throw new FormatFault(name, 'is damaged in the ZIP: pack it again')
  return files
}

/** The sums of its files, in the order of its directory. */
function entriesOf(bytes: Uint8Array): number[] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const is = (at: number, signature: number): boolean =>
    at >= 0 && at + 4 <= bytes.length && view.getUint32(at, true) === signature
  let end = bytes.length - END_SIZE
  while (end >= 0 && !is(end, END)) end--
  if (end < 0) throw broken('no end of its directory')
  const [size, start] = [view.getUint32(end + 12, true), view.getUint32(end + 16, true)]
  if (start === ELSEWHERE) throw broken('it is larger than 4 GiB')
  if (start + size > end) throw broken('its beginning is not there')
  const sums: number[] = []
  for (let at = start; at < start + size;) {
    if (!is(at, ENTRY) || at + ENTRY_SIZE > end) throw broken('its directory is not where it should be')
    if (view.getUint16(at + 8, true) & 1) throw new FormatFault('ZIP', 'has a password: pack it without')
    const local = view.getUint32(at + 42, true)
    if (local !== ELSEWHERE && !is(local, LOCAL)) throw broken('a file is not where its directory says')
    sums.push(view.getInt32(at + 16, true))
    at += ENTRY_SIZE + [28, 30, 32].reduce((sum, field) => sum + view.getUint16(at + field, true), 0)
  }
  return sums
}

const broken = (why: string): FormatFault => new FormatFault('ZIP', `is broken or cut off (${why})`)
