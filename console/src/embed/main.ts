// Starts the small page for frames: a field, an answer, and nothing of the console around it.
import '@fontsource-variable/atkinson-hyperlegible-next/wght.css'
import '@fontsource/ibm-plex-mono/400.css'
import '../style.css'
import { createApp } from 'vue'
import EmbedPage from './EmbedPage.vue'
import { applyLanguage, chooseLanguage, fluent } from '../shared/say'
import { chosen } from './visit'

document.documentElement.dataset.theme = chosen.dark ? 'dark' : 'light'
if (chosen.language) chooseLanguage(chosen.language)
applyLanguage()
createApp(EmbedPage).use(fluent).mount('#app')
