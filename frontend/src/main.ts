import './shell/fonts.css'
import './shell/theme.css'
import { VueQueryPlugin } from '@tanstack/vue-query'
import { createApp } from 'vue'
import App from './App.vue'
import { queryClient } from './api/client'
import { beginAhead } from './shell/ahead'
import { applyTheme } from './shell/theme'
import { router } from './shell/router'

beginAhead()
applyTheme()
createApp(App).use(router).use(VueQueryPlugin, { queryClient }).mount('#app')
