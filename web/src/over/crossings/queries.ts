/** What opening crossings asks of the server. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { client, take, type Schemas } from "../../api/client";
import { allSaved } from "../../shell/unsaved";

/** Ask a start address at once. */
export function useAskStart(onFound: (found: Schemas["StartOut"]) => void) {
  return useMutation({
    mutationFn: (text: string) => take(client.POST("/api/start", { body: { address: text } })),
    onSuccess: onFound,
  });
}

export function useAskMany(onFound: (found: Schemas["VerdictOut"][]) => void) {
  return useMutation({
    mutationFn: (addresses: string[]) => take(client.POST("/api/start/many", { body: { addresses } })),
    onSuccess: onFound,
  });
}

export function useMake(onMade: (made: Schemas["CrossingOut"]) => void) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["CrossingIn"]) => take(client.POST("/api/crossings", { body })),
    onSuccess: (made) => {
      void queries.invalidateQueries({ queryKey: ["crossings"] });
      allSaved();
      onMade(made);
    },
  });
}

export function useMakeMany(onMade: () => void) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (chosen: Schemas["VerdictOut"][]) =>
      take(
        client.POST("/api/crossings/many", {
          body: { addresses: chosen.map((v) => ({ address: v.address, title: v.title })) },
        }),
      ),
    onSuccess: () => {
      allSaved();
      void queries.invalidateQueries({ queryKey: ["crossings"] });
      onMade();
    },
  });
}
