import { createRouter, createWebHistory } from 'vue-router'
import EffectList from './features/list/EffectList.vue'
import { t } from './words'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', component: EffectList, meta: { title: t('app.effects') } },
    { path: '/effects/:id', component: () => import('./features/workbench/WorkBench.vue'), props: true },
    { path: '/effects/:id/proof', component: () => import('./features/proof/ProofView.vue'), props: true },
    { path: '/showcase', component: () => import('./features/showcase/ShowCase.vue'), meta: { title: t('app.showcase') } },
    { path: '/showcase/:code', component: () => import('./features/showcase/ShowPage.vue'), props: true },
    { path: '/review', component: () => import('./features/showcase/ReviewDesk.vue'), meta: { title: t('app.review') } },
    { path: '/p/:code', component: () => import('./features/phone/PhoneView.vue'), props: true },
    { path: '/:rest(.*)', component: () => import('./features/list/NotFound.vue'), meta: { title: t('app.notFound') } },
  ],
})

router.afterEach((to) => {
  document.title = typeof to.meta.title === 'string' ? t('app.sunGlaze', { title: to.meta.title }) : 'Sun Glaze'
})
