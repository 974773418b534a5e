// How long a print lasts, as one says it.
export function lasts(minutes: number): string {
  if (minutes < 1) return 'under a minute'
  const whole = Math.round(minutes)
  if (whole < 60) return `about ${whole} min`
  const [hours, rest] = [Math.floor(whole / 60), whole % 60]
  return rest ? `about ${hours} h ${rest} min` : `about ${hours} h`
}
