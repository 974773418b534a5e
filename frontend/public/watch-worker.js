// Shows that a look at a print is due, and leads to it when tapped. It keeps nothing and fetches nothing.
self.addEventListener('install', () => self.skipWaiting())
self.addEventListener('activate', (event) => event.waitUntil(self.clients.claim()))
self.addEventListener('notificationclick', (event) => {
  event.notification.close()
  const to = event.notification.data?.to ?? '/prints'
  event.waitUntil(
    self.clients.matchAll({ type: 'window' }).then(async (pages) => {
      const page = pages[0]
      if (!page) return self.clients.openWindow(to)
      await page.focus()
      return page.navigate(to)
    }),
  )
})
