// Starts the console: fonts, styles, routes.
import '@fontsource-variable/atkinson-hyperlegible-next/wght.css'
import '@fontsource/ibm-plex-mono/400.css'
import '@fontsource/ibm-plex-mono/600.css'
import './style.css'
import { createApp } from 'vue'
import App from './App.vue'
import { router } from './router'
import { applyLanguage, fluent } from './shared/say'
import { applyTheme } from './shared/theme'

applyTheme()
applyLanguage()
createApp(App).use(router).use(fluent).mount('#app')
