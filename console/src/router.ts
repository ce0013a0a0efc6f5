// The pages and who may see them: without a session there is only the sign-in.
import { createRouter, createWebHistory } from 'vue-router'
import { ended } from './api/client'
import { entitle } from './shared/title'
import { session } from './shared/session'
import { say } from './shared/say'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'ask', component: () => import('./pages/AskPage.vue'), meta: { title: 'ask' } },
    { path: '/sign-in', name: 'sign-in', component: () => import('./pages/SignInPage.vue'), meta: { open: true, title: 'sign-in' } },
    { path: '/inquiries', name: 'earlier', component: () => import('./pages/EarlierPage.vue'), meta: { title: 'earlier' } },
    { path: '/inquiries/:id', name: 'leaf', component: () => import('./pages/LeafPage.vue'), props: true, meta: { title: 'inquiry' } },
    { path: '/models', name: 'models', component: () => import('./pages/ModelsPage.vue'), meta: { title: 'models' } },
    { path: '/usage', name: 'usage', component: () => import('./pages/UsagePage.vue'), meta: { title: 'usage' } },
    { path: '/watches', name: 'watches', component: () => import('./pages/WatchesPage.vue'), meta: { title: 'watches' } },
    { path: '/casebooks', name: 'casebooks', component: () => import('./pages/CasebooksPage.vue'), meta: { title: 'casebooks' } },
    { path: '/casebooks/:id', name: 'casebook', component: () => import('./pages/CasebookPage.vue'), props: true, meta: { title: 'casebook' } },
    { path: '/open-links', name: 'open-links', component: () => import('./pages/OpenLinksPage.vue'), meta: { title: 'open-links' } },
    { path: '/chats', name: 'chats', component: () => import('./pages/ChatsPage.vue'), meta: { title: 'chats' } },
    { path: '/sources', name: 'sources', component: () => import('./pages/SourcesPage.vue'), meta: { title: 'sources' } },
    { path: '/sources/:name/catalog/:table?', name: 'catalog', component: () => import('./pages/CatalogPage.vue'), props: true, meta: { title: 'catalog' } },
    { path: '/sources/:name/examples', name: 'examples', component: () => import('./pages/ExamplesPage.vue'), props: true, meta: { title: 'examples' } },
    { path: '/:rest(.*)*', name: 'nowhere', component: () => import('./pages/NowherePage.vue'), meta: { title: 'nothing-here' } },
  ],
  scrollBehavior: (_to, _from, saved) => saved ?? { top: 0 },
})

router.beforeEach(async (to) => {
  if (to.meta.open) return true
  const known = await session.load()
  return known || { name: 'sign-in', query: to.fullPath === '/' ? {} : { next: to.fullPath } }
})

router.afterEach((to) => {
  const about = [to.params.table, to.params.name].filter(Boolean).join(' · ')
  entitle([say(to.meta.title as string), about].filter(Boolean).join(' · '))
})

// A session that has ended is begun anew, and goes on where it was.
ended.addEventListener('session', () => {
  const here = router.currentRoute.value
  if (here.meta.open || session.me === null) return
  session.me = null
  void router.push({ name: 'sign-in', query: { next: here.fullPath, ended: '1' } })
})
