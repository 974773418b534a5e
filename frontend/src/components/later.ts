// A part of a page that is fetched when it is wanted; until then its room is kept.
import { defineAsyncComponent, type Component } from 'vue'
import WaitBox from './WaitBox.vue'

export const later = <T>(loader: () => Promise<{ default: T }>): T =>
  defineAsyncComponent({
    loader: loader as () => Promise<{ default: Component }>,
    loadingComponent: WaitBox,
    delay: 60,
  }) as T
