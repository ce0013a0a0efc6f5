// The pages and who may see them: without a session there is only the sign-in.
import { createRouter, createWebHistory } from 'vue-router'
import { session } from './shared/session'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'ask', component: () => import('./pages/AskPage.vue') },
    { path: '/sign-in', name: 'sign-in', component: () => import('./pages/SignInPage.vue'), meta: { open: true } },
    { path: '/inquiries', name: 'earlier', component: () => import('./pages/EarlierPage.vue') },
    { path: '/inquiries/:id', name: 'leaf', component: () => import('./pages/LeafPage.vue'), props: true },
    { path: '/sources', name: 'sources', component: () => import('./pages/SourcesPage.vue') },
    { path: '/sources/:name/catalog/:table?', name: 'catalog', component: () => import('./pages/CatalogPage.vue'), props: true },
    { path: '/sources/:name/examples', name: 'examples', component: () => import('./pages/ExamplesPage.vue'), props: true },
    { path: '/:rest(.*)*', name: 'nowhere', component: () => import('./pages/NowherePage.vue') },
  ],
  scrollBehavior: (_to, _from, saved) => saved ?? { top: 0 },
})

router.beforeEach(async (to) => {
  if (to.meta.open) return true
  const known = await session.load()
  return known || { name: 'sign-in', query: to.fullPath === '/' ? {} : { next: to.fullPath } }
})
