import {
  keepPreviousData,
  type QueryClient,
  useMutation,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { useCallback, useRef, useState } from "react";
import { ahead } from "./ahead";
import {
  type ApiProblem,
  api,
  type Edit,
  isPassing,
  type Lighting,
  pauseBefore,
  type ReviewList,
  type ReviewOpened,
  type Schemas,
  type Shelf,
  type Standing,
  type StandingAnswer,
  type Stills,
  taken,
} from "./client";
import { afterOurEdits, editsOf } from "./events";
import { knownSeq, received } from "./standing";
import { sayStep } from "./steps";
import { toast } from "./toast";

const MOST_TRIES = 12;
const at = (review_id: string) => ({ params: { path: { review_id } } });
const still = (still_id: string) => ({ params: { path: { still_id } } });

export function useReviews(refetch: boolean) {
  return useQuery({
    queryKey: ["reviews"],
    queryFn: () => taken<ReviewList>(api.GET("/api/reviews")),
    staleTime: 0,
    refetchInterval: refetch ? 1500 : false,
  });
}

export function useReview(id: string) {
  return useQuery({
    queryKey: ["review", id],
    queryFn: () => taken<ReviewOpened>(api.GET("/api/reviews/{review_id}", at(id))),
  });
}

export function useStanding(id: string) {
  return useQuery({
    queryKey: ["scene", id],
    queryFn: async () => (await fetched(id, knownSeq(id))) ?? (await fetched(id))!,
  });
}

/** The standing, with only what changed on its way where one is known. */
async function fetched(id: string, known?: number) {
  const answer = await taken<StandingAnswer>(
    api.GET("/api/reviews/{review_id}/scene", { params: { path: { review_id: id }, query: { known } } }),
  );
  return received(id, answer);
}

/** Parameters of a request that changes the scene. */
const from = (id: string, to?: number) => ({
  params: { path: { review_id: id }, query: { known: knownSeq(id), to } },
});

/** The last edits, as of a step of the review. */
export function useHistory(id: string, seq: number, wanted: boolean) {
  return useQuery({
    queryKey: ["history", id, seq],
    enabled: wanted,
    queryFn: () =>
      taken<Schemas["History"]>(
        api.GET("/api/reviews/{review_id}/history", { params: { path: { review_id: id } } }),
      ),
    placeholderData: keepPreviousData,
  });
}

/** The scene resolved in another look than the one that is shown. */
export function useStandingIn(id: string, look: string, seq: number) {
  return useQuery({
    queryKey: ["scene in look", id, look, seq],
    queryFn: () =>
      taken<Standing>(
        api.GET("/api/reviews/{review_id}/scene", { params: { path: { review_id: id }, query: { look } } }),
      ),
    placeholderData: (before, query) => (query?.queryKey[2] === look ? before : undefined),
    gcTime: 10_000,
  });
}

export function useStills(id: string) {
  return useQuery({
    queryKey: ["stills", id],
    queryFn: () => taken<Stills>(api.GET("/api/reviews/{review_id}/stills", at(id))),
    select: (found) => found.stills,
  });
}

/** The lighting that a still was taken in; it never changes. */
export function useStillLighting(id: string) {
  return useQuery({
    queryKey: ["still lighting", id],
    queryFn: () => taken<{ lighting: Lighting }>(api.GET("/api/stills/{still_id}/lighting", still(id))),
    select: (found) => found.lighting,
    staleTime: Number.POSITIVE_INFINITY,
  });
}

export function useShelf() {
  return useQuery({ queryKey: ["shelf"], queryFn: () => taken<Shelf>(api.GET("/api/shelf")) });
}

/** Newer standings win: an answer that was overtaken must not take the desk back. */
export function keepStanding(client: QueryClient, id: string, next: Standing) {
  client.setQueryData<Standing>(["scene", id], (known) => (known && known.seq > next.seq ? known : next));
  client.invalidateQueries({ queryKey: ["stills", id] });
}

const complain = (problem: Error) => {
  toast.error(problem.message);
};

/** Sends edits one after the other; undo and redo go the same way. */
export function useEditing(id: string) {
  const client = useQueryClient();
  const onTheWay = useRef<Edit[]>([]);
  // Counted here, since a mutation's own state follows a moment late: until then the page would say "saved".
  const [unsaved, setUnsaved] = useState(0);
  const settle = {
    scope: { id: `edits-${id}` },
    mutationKey: editsOf(id),
    onSettled: () => {
      setUnsaved((count) => count - 1);
      // This one still counts as on its way.
      if (client.isMutating({ mutationKey: editsOf(id) }) <= 1) setTimeout(() => afterOurEdits(client, id));
    },
    onSuccess: (answer: StandingAnswer) => {
      const next = received(id, answer);
      if (next) keepStanding(client, id, onTheWay.current.reduce(ahead, next));
      else client.invalidateQueries({ queryKey: ["scene", id] });
    },
    onError: (problem: ApiProblem) => {
      complain(problem);
      client.invalidateQueries({ queryKey: ["scene", id] });
    },
  };
  const edit = useMutation({
    mutationFn: (change: Edit) =>
      taken<StandingAnswer>(
        api.POST("/api/reviews/{review_id}/edits", { ...from(id), body: { edit: change } }),
      ),
    ...settle,
    // An edit says how things shall be, so making it twice does no harm; undo and redo are never sent again.
    retry: (failures, problem) => isPassing(problem) && failures < MOST_TRIES,
    retryDelay: pauseBefore,
    onSuccess: (next: StandingAnswer) => {
      onTheWay.current.shift();
      settle.onSuccess(next);
    },
    onError: (problem: ApiProblem) => {
      onTheWay.current.shift();
      settle.onError(problem);
    },
  });
  const undo = useMutation({
    mutationFn: (to?: number) =>
      taken<StandingAnswer>(api.POST("/api/reviews/{review_id}/undo", from(id, to))),
    ...settle,
    onSuccess: (next: StandingAnswer) => {
      settle.onSuccess(next);
      sayStep("took back", next.redoes);
    },
    // A step that went through means that nothing hangs any more, whatever was refused before.
    onMutate: () => edit.reset(),
  });
  const redo = useMutation({
    mutationFn: (to?: number) =>
      taken<StandingAnswer>(api.POST("/api/reviews/{review_id}/redo", from(id, to))),
    ...settle,
    onSuccess: (next: StandingAnswer) => {
      settle.onSuccess(next);
      sayStep("made again", next.undoes);
    },
    onMutate: () => edit.reset(),
  });
  const send = useCallback(
    (change: Edit) => {
      onTheWay.current.push(change);
      client.setQueryData<Standing>(["scene", id], (known) => known && ahead(known, change));
      setUnsaved((count) => count + 1);
      edit.mutate(change);
    },
    [client, id, edit.mutate],
  );
  const back = useCallback(
    (to?: number) => {
      setUnsaved((count) => count + 1);
      undo.mutate(to);
    },
    [undo.mutate],
  );
  const forth = useCallback(
    (to?: number) => {
      setUnsaved((count) => count + 1);
      redo.mutate(to);
    },
    [redo.mutate],
  );
  return {
    edit: send,
    undo: back,
    redo: forth,
    saving: unsaved > 0,
    failed: edit.isError,
  };
}

/** A request that changes something, followed by fetching what it changed. */
export function useAct(key: string[]) {
  const client = useQueryClient();
  const run = useMutation({
    mutationFn: (request: () => Promise<unknown>) => request(),
    onSuccess: () => client.invalidateQueries({ queryKey: key }),
    onError: complain,
  });
  return run.mutateAsync;
}

export const actions = {
  take: (id: string, body: Schemas["TakeStill"]) =>
    taken<Schemas["Id"]>(api.POST("/api/reviews/{review_id}/stills", { ...at(id), body })),
  relight: (id: string, lighting: Lighting) =>
    taken(api.POST("/api/stills/{still_id}/relight", { ...still(id), body: { lighting } })),
  pause: (id: string) => taken(api.POST("/api/stills/{still_id}/pause", still(id))),
  resume: (id: string) => taken(api.POST("/api/stills/{still_id}/resume", still(id))),
  stop: (id: string) => taken(api.POST("/api/stills/{still_id}/stop", still(id))),
  removeStill: (id: string) => taken(api.DELETE("/api/stills/{still_id}", still(id))),
  restoreStill: (id: string) => taken(api.POST("/api/stills/{still_id}/restore", still(id))),
  rename: (id: string, name: string) =>
    taken(api.PATCH("/api/reviews/{review_id}", { ...at(id), body: { name } })),
  copy: (id: string) => taken(api.POST("/api/reviews/{review_id}/copy", at(id))),
  remove: (id: string) => taken(api.DELETE("/api/reviews/{review_id}", at(id))),
  restore: (id: string) => taken(api.POST("/api/reviews/{review_id}/restore", at(id))),
  stopIntake: (intake_id: string) =>
    taken(api.POST("/api/intakes/{intake_id}/stop", { params: { path: { intake_id } } })),
};
