import { createRouter, createWebHistory } from 'vue-router'
import EffectList from './views/EffectList.vue'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', component: EffectList, meta: { title: 'Effects' } },
    { path: '/effects/:id', component: () => import('./views/WorkBench.vue'), props: true },
    { path: '/showcase', component: () => import('./views/ShowCase.vue'), meta: { title: 'Showcase' } },
    { path: '/p/:code', component: () => import('./views/PhoneView.vue'), props: true },
    { path: '/:rest(.*)', component: () => import('./views/NotFound.vue'), meta: { title: 'Not found' } },
  ],
})

router.afterEach((to) => {
  document.title = typeof to.meta.title === 'string' ? `${to.meta.title} · Sun Glaze` : 'Sun Glaze'
})
