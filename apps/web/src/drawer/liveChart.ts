/** A chart that follows what it shows: one change after another, as it falls over those that come while it still draws. */

export interface Drawing<Options> {
  render(): Promise<void>
  updateOptions(options: Options): Promise<void>
  destroy(): void
}

/**
 * @param create a chart with its first options, not yet drawn
 * @param same what tells whether options draw the same
 */
export function followChart<Options>(
  create: (options: Options) => Drawing<Options>,
  same: (options: Options) => string,
  first: Options,
) {
  const chart = create(first)
  let [wanted, drawn, ended] = [first, same(first), false]
  let busy = chart.render().catch(() => undefined)
  /** Draws what is wanted by now; what was wanted in between is never drawn. */
  async function catchUp(): Promise<void> {
    if (ended || same(wanted) === drawn) return
    drawn = same(wanted)
    await chart.updateOptions(wanted)
  }
  return {
    show(options: Options): void {
      wanted = options
      busy = busy.then(catchUp).catch(() => undefined)
    },
    dispose(): void {
      ended = true
      void busy.then(() => chart.destroy()).catch(() => undefined)
    },
  }
}
