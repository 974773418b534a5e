// The first layer, foretold.
import { give, http } from './client'
import type { paths } from './schema'

export type FirstLayerWish = NonNullable<
  paths['/api/surveys/{survey_id}/first-layer']['get']['parameters']['query']
>
export const firstLayer = (id: number, query: FirstLayerWish) =>
  give(http.GET('/api/surveys/{survey_id}/first-layer', { params: { path: { survey_id: id }, query } }))
