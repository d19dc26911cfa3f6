import '@fontsource/barlow-condensed/500.css'
import '@fontsource/barlow-condensed/600.css'
import '@fontsource/source-sans-3/400.css'
import '@fontsource/source-sans-3/600.css'
import 'ant-design-vue/dist/reset.css'
import './styles.css'
import './lists.css'

import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { createPinia } from 'pinia'
import { createApp } from 'vue'

import { mayHelpToAskAgain } from './api/client'
import App from './App.vue'
import { keepForOffline } from './phone'
import { router } from './router'

const queryClient = new QueryClient({
  defaultOptions: { queries: { staleTime: 5_000, retry: mayHelpToAskAgain, refetchOnWindowFocus: 'always', shallow: true } },
})

createApp(App).use(createPinia()).use(router).use(VueQueryPlugin, { queryClient }).mount('#app')
void keepForOffline(queryClient)
