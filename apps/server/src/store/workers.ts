/** SQL: how many processes compute takes, and have said so in the last seconds. */
export const LIVE_WORKERS = "SELECT count(*)::int FROM worker WHERE beat_at > now() - interval '10 seconds'"
