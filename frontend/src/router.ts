import { ref } from 'vue'
import { createRouter, createWebHistory } from 'vue-router'

/** The address of a screen that did not load. */
export const notLoaded = ref<string>()
const DID_NOT_COME = /preload CSS|dynamically imported module|module script failed/i
const ASKED_WHOLE = 'oilstone-asked-whole'

/** Every screen has an address, so that reload and the back button lead where one was. */
export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'builds', component: () => import('./views/BuildsView.vue') },
    { path: '/start', name: 'start', component: () => import('./views/StartView.vue') },
    {
      path: '/builds/:id(\\d+)',
      component: () => import('./views/BuildFrame.vue'),
      children: [
        { path: '', redirect: (to) => ({ name: 'stock', params: to.params }) },
        { path: 'stock', name: 'stock', component: () => import('./views/StockView.vue') },
        { path: 'stock/draft', name: 'draft', component: () => import('./views/DraftView.vue') },
        { path: 'stock/import', name: 'import', component: () => import('./views/ImportView.vue') },
        { path: 'stock/old-loom', name: 'old-loom', component: () => import('./views/OldLoomView.vue') },
        {
          path: 'stock/two-harnesses',
          name: 'two-harnesses',
          component: () => import('./views/TwoHarnessesView.vue'),
        },
        { path: 'stock/ready-made', name: 'ready-made', component: () => import('./views/ReadyMadeView.vue') },
        { path: 'lay-out', name: 'lay-out', component: () => import('./views/LayoutView.vue') },
        { path: 'feeds', name: 'feeds', component: () => import('./views/FeedsView.vue') },
        { path: 'feeds/overview', name: 'overview', component: () => import('./views/OverviewView.vue') },
        { path: 'feeds/change-over', name: 'change-over', component: () => import('./views/ChangeOverView.vue') },
        { path: 'feeds/modules', name: 'modules', component: () => import('./views/ModulesView.vue') },
        {
          path: 'circuits/add/:recipe?',
          name: 'functions',
          component: () => import('./views/FunctionsView.vue'),
        },
        {
          path: 'circuits/:circuit?',
          name: 'circuits',
          component: () => import('./views/CircuitsView.vue'),
        },
        { path: 'size', name: 'size', component: () => import('./views/SizeView.vue') },
        { path: 'budget/:scenario?', name: 'budget', component: () => import('./views/BudgetView.vue') },
        { path: 'make/:list?', name: 'make', component: () => import('./views/MakeView.vue') },
        { path: 'bench', name: 'bench', component: () => import('./views/BenchView.vue') },
        {
          path: 'power-up/:step(.*)?',
          name: 'power-up',
          component: () => import('./views/PowerUpView.vue'),
        },
        { path: 'find-a-fault', name: 'find-a-fault', component: () => import('./views/FindView.vue') },
        { path: 'hand-over/:part?', name: 'hand-over', component: () => import('./views/HandOverView.vue') },
      ],
    },
    { path: '/:rest(.*)*', redirect: { name: 'builds' } },
  ],
})

/** A screen is a file of its own, and may not come: the program was renewed while the tab stood open, or is out of
 * reach. If the server answers, the whole page is asked for, once; otherwise one stays where one is, and is told. */
router.onError(async (problem, to) => {
  if (!DID_NOT_COME.test(String(problem))) return
  const isNew = sessionStorage.getItem(ASKED_WHOLE) !== to.fullPath
  const answers = isNew && (await fetch(to.fullPath).then(
    (answer) => answer.ok,
    () => false,
  ))
  if (!answers) {
    notLoaded.value = to.fullPath
    return
  }
  sessionStorage.setItem(ASKED_WHOLE, to.fullPath)
  window.location.assign(to.fullPath)
})

router.afterEach((_to, _from, failure) => {
  if (failure) return
  notLoaded.value = undefined
  sessionStorage.removeItem(ASKED_WHOLE)
})
