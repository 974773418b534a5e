import { createRouter, createWebHistory } from 'vue-router'

export const STEPS = [
  'sound',
  'warm',
  'trust',
  'measure',
  'judge',
  'level',
  'compensate',
  'offset',
  'first-layer',
  'finish',
] as const
export type StepName = (typeof STEPS)[number]

export const router = createRouter({
  history: createWebHistory(),
  // another page begins at its top, but where it is asked for by a place on it; the first one does so by itself
  scrollBehavior: (to, from, saved) =>
    saved ?? (from.name && to.path !== from.path && !to.hash ? { top: 0 } : undefined),
  routes: [
    {
      path: '/',
      name: 'workshop',
      component: () => import('@/printers/WorkshopPage.vue'),
      meta: { title: 'Workshop' },
    },
    {
      path: '/printers/new',
      name: 'new-printer',
      component: () => import('@/printers/PrinterForm.vue'),
      meta: { title: 'New printer' },
    },
    {
      path: '/printers/:id(\\d+)',
      name: 'printer',
      component: () => import('@/printers/PrinterPage.vue'),
      meta: { title: 'Printer' },
    },
    {
      path: '/printers/:id(\\d+)/edit',
      name: 'edit-printer',
      component: () => import('@/printers/PrinterForm.vue'),
      meta: { title: 'Printer set-up' },
    },
    {
      path: '/cases',
      name: 'cases',
      component: () => import('@/diagnosis/CasesPage.vue'),
      meta: { title: 'Cases' },
    },
    {
      path: '/cases/:id(\\d+)',
      name: 'case',
      component: () => import('@/diagnosis/CasePage.vue'),
      meta: { title: 'Case' },
    },
    {
      path: '/printers/:id(\\d+)/cases/new',
      name: 'new-case',
      component: () => import('@/diagnosis/NewCase.vue'),
      meta: { title: 'New case' },
    },
    {
      path: '/beliefs',
      name: 'beliefs',
      component: () => import('@/diagnosis/BeliefsPage.vue'),
      meta: { title: 'What Finchwort believes' },
    },
    {
      path: '/table',
      name: 'table',
      component: () => import('@/diagnosis/TablePage.vue'),
      meta: { title: 'Surfaces and materials' },
    },
    {
      path: '/terms',
      name: 'terms',
      component: () => import('@/shell/TermsPage.vue'),
      meta: { title: 'Terms' },
    },
    {
      path: '/part',
      name: 'part',
      component: () => import('@/diagnosis/PartPage.vue'),
      meta: { title: 'Part and settings' },
    },
    {
      path: '/files',
      name: 'files',
      component: () => import('@/files/FilesPage.vue'),
      meta: { title: 'Before a print' },
    },
    {
      path: '/files/:id(\\d+)',
      name: 'file',
      component: () => import('@/files/FilePage.vue'),
      meta: { title: 'Before a print' },
    },
    {
      path: '/printers/:id(\\d+)/print',
      name: 'begin-print',
      component: () => import('@/prints/StartPrint.vue'),
      meta: { title: 'I print now' },
    },
    {
      path: '/prints',
      name: 'prints',
      component: () => import('@/prints/PrintsPage.vue'),
      meta: { title: 'Prints' },
    },
    {
      path: '/prints/results',
      name: 'print-results',
      component: () => import('@/prints/PrintResults.vue'),
      meta: { title: 'What came of the prints' },
    },
    {
      path: '/prints/:id(\\d+)',
      name: 'print',
      component: () => import('@/prints/PrintPage.vue'),
      meta: { title: 'Print' },
    },
    {
      path: '/extrusion',
      name: 'extrusion',
      component: () => import('@/first_layer/ExtrusionPage.vue'),
      meta: { title: 'Extrusion sums' },
    },
    {
      path: '/visits/:id(\\d+)/at-printer',
      name: 'at-printer',
      component: () => import('@/levelling/AtPrinter.vue'),
      meta: { title: 'At the printer', bare: true },
    },
    {
      path: '/visits/:id(\\d+)/keypad',
      name: 'keypad',
      component: () => import('@/surveys/KeypadPage.vue'),
      meta: { title: 'Readings at the bench', bare: true },
    },
    {
      path: '/visits/:id(\\d+)/bench',
      name: 'bench',
      component: () => import('@/tramming/BenchPage.vue'),
      meta: { title: 'Levelling at the bench', bare: true },
    },
    {
      path: '/visits/:id(\\d+)/looks',
      name: 'looks',
      component: () => import('@/first_layer/LooksPage.vue'),
      meta: { title: 'How the first layer looks', bare: true },
    },
    {
      path: '/printers/:id(\\d+)/machine',
      name: 'machine',
      component: () => import('@/machine/MachinePage.vue'),
      meta: { title: 'At the line' },
    },
    {
      path: '/visits/:id(\\d+)/:step(sound|warm|trust|measure|judge|level|compensate|offset|first-layer|finish)?',
      name: 'visit',
      component: () => import('@/visits/VisitPage.vue'),
      meta: { title: 'Visit' },
    },
    {
      path: '/begin',
      name: 'begin',
      component: () => import('@/printers/BeginPage.vue'),
      meta: { title: 'Begin' },
    },
    {
      path: '/devices',
      name: 'devices',
      component: () => import('@/access/DevicesPage.vue'),
      meta: { title: 'Devices' },
    },
    {
      path: '/backups',
      name: 'backups',
      component: () => import('@/access/BackupsPage.vue'),
      meta: { title: 'Backups' },
    },
    {
      path: '/logbook',
      name: 'logbook',
      component: () => import('@/visits/LogbookPage.vue'),
      meta: { title: 'Logbook' },
    },
    {
      path: '/:rest(.*)*',
      name: 'nowhere',
      component: () => import('@/shell/NowherePage.vue'),
      meta: { title: 'Not found' },
    },
  ],
})

router.afterEach((to) => {
  document.title = `${String(to.meta.title)} · Finchwort`
})
