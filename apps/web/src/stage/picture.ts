/** A shot's picture in the list of shots, pixels. */
const [WIDTH, HEIGHT] = [480, 300]

/** The middle of a canvas, in the card's proportions, as a PNG. */
export function thumbnailOf(canvas: HTMLCanvasElement): Promise<Blob | null> {
  const small = Object.assign(document.createElement('canvas'), { width: WIDTH, height: HEIGHT })
  drawMiddle(small, canvas, 0, WIDTH, HEIGHT)
  return new Promise((resolve) => small.toBlob(resolve, 'image/png'))
}

/** Draws what of the middle of a canvas fits onto another, so many pixels from its left. */
export function drawMiddle(
  onto: HTMLCanvasElement,
  canvas: HTMLCanvasElement,
  left: number,
  width: number,
  height: number,
): void {
  const part = Math.min(canvas.width / width, canvas.height / height)
  const [w, h] = [width * part, height * part]
  const [x, y] = [(canvas.width - w) / 2, (canvas.height - h) / 2]
  onto.getContext('2d')?.drawImage(canvas, x, y, w, h, left, 0, width, height)
}
