/** A shot's picture in the list of shots, pixels. */
const [WIDTH, HEIGHT] = [480, 300]

/** The middle of a canvas, in the card's proportions, as a PNG. */
export function thumbnailOf(canvas: HTMLCanvasElement): Promise<Blob | null> {
  const small = document.createElement('canvas')
  small.width = WIDTH
  small.height = HEIGHT
  const { width, height } = canvas
  const part = Math.min(width / WIDTH, height / HEIGHT)
  const [w, h] = [WIDTH * part, HEIGHT * part]
  small.getContext('2d')?.drawImage(canvas, (width - w) / 2, (height - h) / 2, w, h, 0, 0, WIDTH, HEIGHT)
  return new Promise((resolve) => small.toBlob(resolve, 'image/png'))
}
