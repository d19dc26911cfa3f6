import { fileURLToPath } from 'node:url'

import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'
import { VitePWA } from 'vite-plugin-pwa'

/** What a phone keeps of a build, so that a step can be read and recorded while the laptop sleeps. */
const READ_OFFLINE = /\/api\/(builds(\/\d+(\/(plan|proofs|proofs\/record|photos(\/\d+)?))?)?|phone)(\?.*)?$/

export default defineConfig({
  plugins: [
    vue(),
    VitePWA({
      registerType: 'autoUpdate',
      injectRegister: false,
      useCredentials: true,
      manifest: {
        name: 'Oilstone',
        short_name: 'Oilstone',
        description: 'Designs, sizes and proves the electrical system of a car',
        start_url: '/',
        display: 'standalone',
        background_color: '#1F2529',
        theme_color: '#1F2529',
        icons: [
          { src: '/icon.svg', type: 'image/svg+xml', sizes: 'any', purpose: 'any' },
          { src: '/icon-192.png', type: 'image/png', sizes: '192x192', purpose: 'any' },
          { src: '/icon-512.png', type: 'image/png', sizes: '512x512', purpose: 'any' },
        ],
      },
      workbox: {
        globPatterns: ['**/*.{js,css,html,svg,png,woff2}'],
        maximumFileSizeToCacheInBytes: 4_000_000,
        navigateFallback: '/index.html',
        navigateFallbackDenylist: [/^\/api\//, /^\/phone\//],
        clientsClaim: true,
        skipWaiting: true,
        runtimeCaching: [
          {
            urlPattern: READ_OFFLINE,
            handler: 'NetworkFirst',
            options: { cacheName: 'builds', networkTimeoutSeconds: 8, expiration: { maxEntries: 200 } },
          },
        ],
      },
    }),
  ],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  build: { chunkSizeWarningLimit: 1500 },
})
