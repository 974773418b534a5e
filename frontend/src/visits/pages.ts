// The page of each step of a visit, fetched when it is wanted, or a moment before.
export const STEP_PAGES = {
  sound: () => import('@/probing/SoundStep.vue'),
  warm: () => import('@/probing/WarmStep.vue'),
  trust: () => import('@/probing/TrustStep.vue'),
  measure: () => import('@/surveys/MeasureStep.vue'),
  judge: () => import('@/surveys/JudgeStep.vue'),
  level: () => import('@/tramming/LevelStep.vue'),
  compensate: () => import('@/compensation/CompensateStep.vue'),
  offset: () => import('@/first_layer/OffsetPage.vue'),
  'first-layer': () => import('@/first_layer/FirstLayerPage.vue'),
  finish: () => import('./FinishStep.vue'),
}
