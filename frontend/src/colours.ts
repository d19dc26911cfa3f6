/** The letter codes of colours that the screen shows beside their names; the core has the same table. */
import { useQuery } from '@tanstack/vue-query'
import { shallowRef } from 'vue'

import { answered, client } from '@/api/client'

const letters = shallowRef<Record<string, string>>({})

/** What can be chosen for parts by hand; it also brings the letter codes. */
export function usePartsCatalogue() {
  return useQuery({
    queryKey: ['parts catalogue'],
    queryFn: async () => {
      const answer = await answered(client.GET('/api/catalogue/parts'))
      letters.value = answer.colours
      return answer
    },
    staleTime: Infinity,
  })
}

/** `green/white` as GNWH; what has no code stays as it is written. */
export function lettersOf(colour: string): string {
  const codes = colour.split('/').map((part) => letters.value[part.trim().toLowerCase()])
  return codes.every(Boolean) ? codes.join('') : colour
}

const KNOWN = ['black', 'brown', 'red', 'orange', 'yellow', 'green', 'blue', 'violet', 'grey', 'white', 'pink', 'turquoise']

/** A background in the colours of a wire, the tracer below; none where a colour is not known. */
export function colourCss(colour: string): string {
  const [base, tracer = base] = colour.split('/').map((part) => part.trim().toLowerCase())
  return KNOWN.includes(base!) && KNOWN.includes(tracer!) ? `linear-gradient(${base} 0 62%, ${tracer} 62%)` : 'none'
}
