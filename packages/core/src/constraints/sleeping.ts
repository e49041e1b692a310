/** What lies still for a while does not move at all, until something moving touches it or its support goes. */
import type { ConstraintKind } from './constraint.ts'

/** Slower than `speed` (m/s) for `wait` seconds. */
export interface SleepRule {
  speed: number
  wait: number
}

export const SLEEPING: ConstraintKind<SleepRule> = {
  name: 'sleeping',
  does: 'what has lain still for a while keeps its place until it is touched',
  couples: true,
  pace: 'touch',
  prepare(bodies, _, { machine, h }) {
    const fed = bodies.members.flatMap((member) => {
      const [feed, ...others] = member.population.feeds(SLEEPING)
      others.forEach((one) => one.free())
      return feed ? [{ ...member, member, feed }] : []
    })
    if (fed.length === 0) return null
    const { moved, speeds, sleeps } = bodies
    for (const { population, first, count, feed } of fed) {
      const { restTime } = population.columns.at
      const { wait, speed } = feed.rule
      machine.run('sleepBodies', count, { first, moved, speeds, sleeps, restTime, wait })
      bodies.wakeSpeed = Math.min(bodies.wakeSpeed, 2 * speed)
    }
    return {
      finish() {
        for (const { member, population, first, count, feed } of fed) {
          const { contactNormal, restTime, phaseAge } = population.columns.at
          machine.run('updateSleep', count, {
            first,
            speeds,
            sleeps,
            touches: bodies.touches,
            contactNormal,
            planes: member.planes,
            amount: feed.amount,
            restTime,
            phaseAge,
            speed: feed.rule.speed,
            wait: feed.rule.wait,
            h,
          })
          feed.free()
        }
      },
    }
  },
}
