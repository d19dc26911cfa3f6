import { onBeforeUnmount, ref, watch } from 'vue'

import type { BuildView } from '@/api/client'
import { useLive } from '@/stores/live'

const CLICK_S = 0.012
const CLICK_HZ = { relay: 1900, flasher: 1200 }
const HORN_HZ = [410, 515]
const SOUNDS_PERCENT = 20

/** What a car sounds like at the bench: relays and flashers click, the horn blows. Off until it is asked for. */
export function useSound(build: () => BuildView | undefined) {
  const live = useLive()
  const on = ref(false)
  let audio: AudioContext | undefined
  let horn: { tones: OscillatorNode[]; gain: GainNode } | undefined
  const lit = new Map<string, boolean>()

  function click(hz: number): void {
    if (!audio) return
    const tone = audio.createOscillator()
    const gain = audio.createGain()
    tone.type = 'square'
    tone.frequency.value = hz
    gain.gain.setValueAtTime(0.06, audio.currentTime)
    gain.gain.exponentialRampToValueAtTime(0.0005, audio.currentTime + CLICK_S)
    tone.connect(gain).connect(audio.destination)
    tone.start()
    tone.stop(audio.currentTime + CLICK_S)
  }

  function blow(blows: boolean): void {
    if (!audio || blows === !!horn) return
    if (horn) {
      for (const tone of horn.tones) tone.stop()
      horn = undefined
      return
    }
    const gain = audio.createGain()
    gain.gain.value = 0.05
    gain.connect(audio.destination)
    const tones = HORN_HZ.map((hz) => {
      const tone = audio!.createOscillator()
      tone.type = 'sawtooth'
      tone.frequency.value = hz
      tone.connect(gain)
      tone.start()
      return tone
    })
    horn = { tones, gain }
  }

  const percent = (load: string) => live.frame?.load_percent[live.loadAt.get(load) ?? -1] ?? 0

  watch(
    () => live.tape.length,
    (count, before) => {
      const news = live.tape.slice(before - count)
      if (on.value && count > before && news.some((event) => event.kind === 'relay')) click(CLICK_HZ.relay)
    },
  )
  watch(
    () => live.frame,
    () => {
      if (!on.value) return
      const loads = build()?.parts.filter((part) => part.kind === 'load') ?? []
      for (const part of loads.filter((row) => /turn lamp/i.test(row.name))) {
        const now = percent(part.id) > SOUNDS_PERCENT
        if (lit.has(part.id) && lit.get(part.id) !== now) click(CLICK_HZ.flasher)
        lit.set(part.id, now)
      }
      blow(loads.some((part) => part.output_word === 'sound' && percent(part.id) > SOUNDS_PERCENT))
    },
  )
  watch(on, (sounds) => {
    if (sounds) audio ??= new AudioContext()
    else blow(false)
  })
  onBeforeUnmount(() => {
    blow(false)
    void audio?.close()
  })
  return on
}
