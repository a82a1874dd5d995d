import { createRouter, createWebHistory } from 'vue-router'
import EffectList from './features/list/EffectList.vue'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', component: EffectList, meta: { title: 'Effects' } },
    { path: '/effects/:id', component: () => import('./features/workbench/WorkBench.vue'), props: true },
    { path: '/showcase', component: () => import('./features/showcase/ShowCase.vue'), meta: { title: 'Showcase' } },
    { path: '/p/:code', component: () => import('./features/phone/PhoneView.vue'), props: true },
    { path: '/:rest(.*)', component: () => import('./features/list/NotFound.vue'), meta: { title: 'Not found' } },
  ],
})

router.afterEach((to) => {
  document.title = typeof to.meta.title === 'string' ? `${to.meta.title} · Sun Glaze` : 'Sun Glaze'
})
