// The page for a code: where a device goes that was removed, or whose time is over.
let going = false

/**
 * Go to the page for a code, once: several answers say so at the same time, and each further going
 * would cut off the one that is under way.
 */
export function askForCode(): void {
  if (going) return
  going = true
  // kept whole by the browser and come back to, it may have to go again
  window.addEventListener('pageshow', (shown) => {
    if (shown.persisted) going = false
  })
  window.location.assign('/pair')
}
