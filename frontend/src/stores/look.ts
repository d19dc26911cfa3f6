import { theme as antTheme } from 'ant-design-vue'
import { defineStore } from 'pinia'
import { computed, ref, watchEffect } from 'vue'

const STORED = 'oilstone-dark'

/** Paper by day, dark for a dark garage; both from the same tokens as `styles.css`. */
export const useLook = defineStore('look', () => {
  const dark = ref(localStorage.getItem(STORED) === 'yes')
  watchEffect(() => {
    localStorage.setItem(STORED, dark.value ? 'yes' : 'no')
    document.documentElement.dataset.look = dark.value ? 'dark' : 'paper'
  })

  const theme = computed(() => ({
    algorithm: [
      dark.value ? antTheme.darkAlgorithm : antTheme.defaultAlgorithm,
      antTheme.compactAlgorithm,
    ],
    components: { Button: { colorError: dark.value ? '#F2857C' : '#B3261E' } },
    token: {
      colorPrimary: dark.value ? '#E39A68' : '#A4511F',
      colorPrimaryHover: dark.value ? '#F0B48A' : '#8C4318', // further from the sheet, so that it is read
      colorLink: dark.value ? '#E39A68' : '#A4511F',
      colorLinkHover: dark.value ? '#F0B48A' : '#8C4318',
      colorError: dark.value ? '#F2857C' : '#B3261E',
      colorText: dark.value ? '#E9E5DC' : '#1F2529',
      colorTextPlaceholder: dark.value ? '#9BA5AB' : '#5C666D',
      colorTextLightSolid: dark.value ? '#14181B' : '#FFFFFF',
      colorBgBase: dark.value ? '#14181B' : '#FCFBF8',
      colorBorder: dark.value ? '#4A545B' : '#B9B3A6',
      borderRadius: 3,
      borderRadiusLG: 3,
      borderRadiusSM: 3,
      fontFamily: "'Source Sans 3', sans-serif",
      fontSize: 16,
      wireframe: true,
      motionUnit: 0.005,
      boxShadow: 'none',
    },
  }))

  return { dark, theme }
})
