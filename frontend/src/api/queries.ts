import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, type ComputedRef, type Ref, ref } from 'vue'
import { useRoute } from 'vue-router'

import { answered, client, mayHelpToAskAgain, type Schemas } from './client'

/** Id of the build in the address. */
export function useBuildId(): ComputedRef<number> {
  const route = useRoute()
  return computed(() => Number(route.params.id))
}

export function useBuilds() {
  return useQuery({
    queryKey: ['builds'],
    queryFn: () => answered(client.GET('/api/builds')),
  })
}

/** Builds that were deleted and can still be brought back. */
export function useDeletedBuilds() {
  return useQuery({
    queryKey: ['builds', 'deleted'],
    queryFn: () => answered(client.GET('/api/builds', { params: { query: { deleted: true } } })),
  })
}

/** Copies of all data, taken by themselves. */
export function useCopies() {
  return useQuery({ queryKey: ['builds', 'copies'], queryFn: () => answered(client.GET('/api/copies')) })
}

export function useBuild(id: Ref<number>) {
  return useQuery({
    queryKey: ['build', id],
    queryFn: () => answered(client.GET('/api/builds/{build_id}', at(id))),
    refetchInterval: 15_000,
  })
}

/** The revision that the screen shows; undefined until the build is there. */
export function useRevision(id: Ref<number>): ComputedRef<number | undefined> {
  const { data } = useBuild(id)
  return computed(() => data.value?.revision)
}

export function useResults(id: Ref<number>) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['results', id, revision],
    queryFn: () => answered(client.GET('/api/builds/{build_id}/results', at(id))),
    enabled: computed(() => revision.value !== undefined),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  })
}

export function useChoices(id: Ref<number>) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['choices', id, revision],
    queryFn: () => answered(client.GET('/api/builds/{build_id}/choices', at(id))),
    enabled: computed(() => revision.value !== undefined),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  })
}

export function useCatalogueLoads() {
  return useQuery({
    queryKey: ['catalogue'],
    queryFn: () => answered(client.GET('/api/catalogue/loads')),
    staleTime: Infinity,
  })
}

export function useStock(id: Ref<number>) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['stock', id, revision],
    queryFn: () => answered(client.GET('/api/builds/{build_id}/stock', at(id))),
    enabled: computed(() => revision.value !== undefined),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  })
}

export function useLayout(id: Ref<number>) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['layout', id, revision],
    queryFn: () => answered(client.GET('/api/builds/{build_id}/layout', at(id))),
    enabled: computed(() => revision.value !== undefined),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  })
}

export function useAudit(id: Ref<number>) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['audit', id, revision],
    queryFn: () => answered(client.GET('/api/builds/{build_id}/audit', at(id))),
    enabled: computed(() => revision.value !== undefined),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  })
}

export function usePhotos(id: Ref<number>) {
  return useQuery({
    queryKey: ['photos', id],
    queryFn: () => answered(client.GET('/api/builds/{build_id}/photos', at(id))),
  })
}

export function useKindsOfCar() {
  return useQuery({
    queryKey: ['kinds of car'],
    queryFn: () => answered(client.GET('/api/kinds-of-car')),
    staleTime: Infinity,
  })
}

/** The fall lines of a circuit, in the road state that is asked for or where each load loses most. */
export function useDesignFallLines(
  id: Ref<number>,
  circuit: Ref<string | undefined>,
  road: Ref<string>,
) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['fall-lines', id, circuit, road, revision],
    queryFn: () =>
      answered(
        client.GET('/api/builds/{build_id}/circuits/{circuit_id}/fall-lines', {
          params: {
            path: { build_id: id.value, circuit_id: circuit.value ?? '' },
            query: road.value ? { road: road.value } : {},
          },
        }),
      ),
    enabled: computed(() => revision.value !== undefined && circuit.value !== undefined),
    staleTime: Infinity,
  })
}

/** What to know at each stage, and the words of the trade. */
export function useHelp() {
  return useQuery({
    queryKey: ['help'],
    queryFn: () => answered(client.GET('/api/catalogue/help')),
    staleTime: Infinity,
  })
}

/** The whole car on one sheet: unfolded to a level, but for the branches that were turned. */
export function useOverview(id: Ref<number>, level: Ref<string>, turned: Ref<string[]>) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['overview', id, level, turned, revision],
    queryFn: () =>
      answered(
        client.GET('/api/builds/{build_id}/overview', {
          params: { path: { build_id: id.value }, query: { level: level.value, turned: turned.value.join('\n') } },
        }),
      ),
    enabled: computed(() => revision.value !== undefined),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    retry: false,
  })
}

export function useSchematic(id: Ref<number>, circuit: Ref<string | undefined>) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['schematic', id, circuit, revision],
    queryFn: () =>
      answered(
        client.GET('/api/builds/{build_id}/circuits/{circuit_id}/schematic', {
          params: { path: { build_id: id.value, circuit_id: circuit.value ?? '' } },
        }),
      ),
    enabled: computed(() => revision.value !== undefined && circuit.value !== undefined),
    staleTime: Infinity,
    retry: false,
  })
}

/** The sizes that were weighed for a wire or fuse. */
export function useCandidates(id: Ref<number>, owner: Ref<string | undefined>) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['candidates', id, owner, revision],
    queryFn: () =>
      answered(
        client.GET('/api/builds/{build_id}/candidates/{owner}', {
          params: { path: { build_id: id.value, owner: owner.value ?? '' } },
        }),
      ),
    enabled: computed(() => revision.value !== undefined && owner.value !== undefined),
    staleTime: Infinity,
    retry: false,
  })
}

/** The truth table of a circuit; `vary` are the switches to move, all that fit when undefined. */
export function useTruth(
  id: Ref<number>,
  circuit: Ref<string | undefined>,
  vary: Ref<string[] | undefined>,
) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['truth', id, circuit, vary, revision],
    queryFn: () =>
      answered(
        client.GET('/api/builds/{build_id}/circuits/{circuit_id}/truth', {
          params: {
            path: { build_id: id.value, circuit_id: circuit.value ?? '' },
            query: vary.value ? { vary: vary.value.join(',') } : {},
          },
        }),
      ),
    enabled: computed(() => revision.value !== undefined && circuit.value !== undefined),
    staleTime: Infinity,
    retry: false,
  })
}

export function useRecipes(id: Ref<number>) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['recipes', id, revision],
    queryFn: () => answered(client.GET('/api/builds/{build_id}/recipes', at(id))),
    enabled: computed(() => revision.value !== undefined),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  })
}

/** The functions that were written in the other builds. */
export function useFunctionsElsewhere(id: Ref<number>) {
  return useQuery({
    queryKey: ['builds', 'functions-elsewhere', id],
    queryFn: () => answered(client.GET('/api/builds/{build_id}/functions-elsewhere', at(id))),
  })
}

export function useRecipeSchematic(recipe: Ref<string>) {
  return useQuery({
    queryKey: ['recipe schematic', recipe],
    queryFn: () =>
      answered(
        client.GET('/api/recipes/{recipe_id}/schematic', {
          params: { path: { recipe_id: recipe.value } },
        }),
      ),
    staleTime: Infinity,
    retry: false,
  })
}

export function useFeeds(id: Ref<number>) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['feeds', id, revision],
    queryFn: () => answered(client.GET('/api/builds/{build_id}/feeds', at(id))),
    enabled: computed(() => revision.value !== undefined),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  })
}

/** What every module does, what it hears, and what is left when something is lost. */
export function useModules(id: Ref<number>) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['modules', id, revision],
    queryFn: () => answered(client.GET('/api/builds/{build_id}/modules', at(id))),
    enabled: computed(() => revision.value !== undefined),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  })
}

/** The steps from an old fuse box to the modules. */
export function useChangeOver(id: Ref<number>) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['change-over', id, revision],
    queryFn: () => answered(client.GET('/api/builds/{build_id}/change-over', at(id))),
    enabled: computed(() => revision.value !== undefined),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  })
}

/** How long a fuse takes to part, and how long what is behind it bears that. */
export function useTimeCurrent(id: Ref<number>, fuse: Ref<string | undefined>) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['time-current', id, fuse, revision],
    queryFn: () =>
      answered(
        client.GET('/api/builds/{build_id}/fuses/{fuse_id}/time-current', {
          params: { path: { build_id: id.value, fuse_id: fuse.value ?? '' } },
        }),
      ),
    enabled: computed(() => revision.value !== undefined && fuse.value !== undefined),
    staleTime: Infinity,
    retry: false,
  })
}

/** How warm a wire gets, along its way and under an overload. */
export function useWireHeat(id: Ref<number>, wire: Ref<string | undefined>, amps: Ref<number | undefined>) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['wire-heat', id, wire, amps, revision],
    queryFn: () =>
      answered(
        client.GET('/api/builds/{build_id}/wires/{wire_id}/heat', {
          params: { path: { build_id: id.value, wire_id: wire.value ?? '' }, query: { amps: amps.value } },
        }),
      ),
    enabled: computed(() => revision.value !== undefined && wire.value !== undefined),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    retry: false,
  })
}

/** By what the build is sized, and the reels it takes. */
export function useRules(id: Ref<number>) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['rules', id, revision],
    queryFn: () => answered(client.GET('/api/builds/{build_id}/rules', at(id))),
    enabled: computed(() => revision.value !== undefined),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  })
}

/** What the car draws in each scenario, against alternator and battery. */
export function useBudget(id: Ref<number>) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['budget', id, revision],
    queryFn: () => answered(client.GET('/api/builds/{build_id}/budget', at(id))),
    enabled: computed(() => revision.value !== undefined),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  })
}

/** The same with LED lamps in place of those with a filament, once it is asked for. */
export function useBudgetWithLedLamps(id: Ref<number>, asked: Ref<boolean>) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['budget with LED lamps', id, revision],
    queryFn: () => answered(client.GET('/api/builds/{build_id}/budget/led-lamps', at(id))),
    enabled: computed(() => asked.value && revision.value !== undefined),
    staleTime: Infinity,
  })
}

/** What the loom takes, or one stage of it, and what of it has been made. */
export function useMake(id: Ref<number>, stage: Ref<number | undefined>) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['make', id, stage, revision],
    queryFn: () =>
      answered(
        client.GET('/api/builds/{build_id}/make', {
          params: { path: { build_id: id.value }, query: { stage: stage.value } },
        }),
      ),
    enabled: computed(() => revision.value !== undefined),
    placeholderData: keepPreviousData,
  })
}

/** The loom laid flat. */
export function useBoard(id: Ref<number>) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['board', id, revision],
    queryFn: () => answered(client.GET('/api/builds/{build_id}/make/board', at(id))),
    enabled: computed(() => revision.value !== undefined),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  })
}

/** How many wires are cut, and how many of these are wanted otherwise now. */
export function useMade(id: Ref<number>) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['made', id, revision],
    queryFn: () => answered(client.GET('/api/builds/{build_id}/made', at(id))),
    enabled: computed(() => revision.value !== undefined),
    placeholderData: keepPreviousData,
  })
}

/** What was done by evening, what waits and what comes next. */
export function useJournal(id: Ref<number>, wanted: Ref<boolean> = ref(true)) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['journal', id, revision],
    queryFn: () => answered(client.GET('/api/builds/{build_id}/journal', at(id))),
    enabled: computed(() => revision.value !== undefined && wanted.value),
    placeholderData: keepPreviousData,
    refetchOnMount: 'always', // wires cut, steps proved and photos make no revision
  })
}

/** Every edit, the newest first. */
export function useHistory(id: Ref<number>) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['history', id, revision],
    queryFn: () => answered(client.GET('/api/builds/{build_id}/history', at(id))),
    enabled: computed(() => revision.value !== undefined),
    placeholderData: keepPreviousData,
  })
}

/** Two revisions side by side. */
/** What a revision has otherwise than an earlier one, or than another build. */
export function useComparison(id: Ref<number>, before: Ref<number | undefined>, after: Ref<number | undefined>, other: Ref<number | undefined>) {
  return useQuery({
    queryKey: ['compare', id, before, after, other],
    queryFn: () =>
      answered(
        other.value
          ? client.GET('/api/builds/{build_id}/compare/{other_id}', { params: { path: { build_id: id.value, other_id: other.value } } })
          : client.GET('/api/builds/{build_id}/history/compare', {
              params: { path: { build_id: id.value }, query: { before: before.value ?? 0, after: after.value ?? 0 } },
            }),
      ),
    enabled: computed(() => other.value !== undefined || (before.value !== undefined && after.value !== undefined && before.value !== after.value)),
    staleTime: Infinity,
    retry: false,
  })
}

export function useSearch(id: Ref<number>, text: Ref<string>) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['search', id, text, revision],
    queryFn: () =>
      answered(
        client.GET('/api/builds/{build_id}/search', {
          params: { path: { build_id: id.value }, query: { text: text.value } },
        }),
      ),
    enabled: computed(() => revision.value !== undefined && text.value.trim().length > 0),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  })
}

/** The fall lines of a circuit as the bench has them now, asked for again each second while it is live. */
export function useLiveFallLines(id: Ref<number>, circuit: Ref<string | undefined>, live: Ref<boolean>) {
  return useQuery({
    queryKey: ['live fall lines', id, circuit],
    queryFn: () =>
      answered(
        client.GET('/api/builds/{build_id}/bench/fall-lines', {
          params: { path: { build_id: id.value }, query: { circuit: circuit.value ?? '' } },
        }),
      ),
    enabled: computed(() => live.value && circuit.value !== undefined),
    refetchInterval: 1000,
    retry: false,
  })
}

/** Every kind of fault that this car can have, and where. */
export function useFaultKinds(id: Ref<number>) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['fault kinds', id, revision],
    queryFn: () => answered(client.GET('/api/builds/{build_id}/bench/faults', at(id))),
    enabled: computed(() => revision.value !== undefined),
    staleTime: Infinity,
  })
}

/** What else a kind of fault on a wire or part takes. */
export function useFaultOthers(id: Ref<number>, kind: Ref<string>, of: Ref<string>) {
  return useQuery({
    queryKey: ['fault others', id, kind, of],
    queryFn: () =>
      answered(
        client.GET('/api/builds/{build_id}/bench/faults/others', {
          params: { path: { build_id: id.value }, query: { kind: kind.value, of: of.value } },
        }),
      ),
    enabled: computed(() => kind.value !== '' && of.value !== ''),
    staleTime: Infinity,
  })
}

const ASK_AGAIN_MS = 5_000

/** The newest proof of each step; `watched` where somebody else may be recording beside us. */
export function useProofStates(id: Ref<number>, watched = false) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['proofs', id, revision],
    queryFn: () => answered(client.GET('/api/builds/{build_id}/proofs', at(id))),
    enabled: computed(() => revision.value !== undefined),
    refetchInterval: watched ? ASK_AGAIN_MS : false,
    placeholderData: keepPreviousData,
  })
}

/** The whole proof of the build as its car stands. */
export function usePlan(id: Ref<number>) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['plan', id, revision],
    queryFn: () => answered(client.GET('/api/builds/{build_id}/plan', at(id))),
    enabled: computed(() => revision.value !== undefined),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    retry: mayHelpToAskAgain,
  })
}

/** Every proof kept of a step, the newest first. */
export function useProofRecord(
  id: Ref<number>,
  step: Ref<{ id: string; circuit: string | null } | undefined>,
  kept: Ref<number | undefined>,
) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['proof-record', id, computed(() => step.value?.id), revision, kept],
    queryFn: () =>
      answered(
        client.GET('/api/builds/{build_id}/proofs/record', {
          params: {
            path: { build_id: id.value },
            query: { step: step.value?.id ?? '', circuit: step.value?.circuit ?? '' },
          },
        }),
      ),
    enabled: computed(() => step.value !== undefined),
  })
}

/** Where a search for a fault stands, by what is known of it. */
export function useDiagnosis(id: Ref<number>, known: Ref<Schemas['DiagnosisRequest']>) {
  const revision = useRevision(id)
  return useQuery({
    queryKey: ['diagnosis', id, known, revision],
    queryFn: () =>
      answered(
        client.POST('/api/builds/{build_id}/diagnosis', {
          params: { path: { build_id: id.value } },
          body: known.value,
        }),
      ),
    enabled: computed(() => revision.value !== undefined),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 0,
    retry: mayHelpToAskAgain,
  })
}

/** The faults of a car that were found and mended, the newest first. */
export function useMendedFaults(id: Ref<number>) {
  return useQuery({
    queryKey: ['faults', id],
    queryFn: () => answered(client.GET('/api/builds/{build_id}/faults', at(id))),
  })
}

function at(id: Ref<number>) {
  return { params: { path: { build_id: id.value } } }
}
