import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, data, type Schemas } from "../../../api/client";
import { useProject } from "../../../api/project";
import type { Card } from "../../../player/cards";

/** How a card is set in the film: its lines, its extent, and letters that no font has; nothing until it is known. */
export function useCardSet(card: Card | null): Schemas["CardSet"] | undefined {
  const { id } = useProject();
  const text = card ? JSON.stringify(card) : "";
  return useQuery({
    queryKey: ["card", id, text],
    queryFn: () =>
      data(
        api.GET("/api/v1/projects/{project_id}/card", { params: { path: { project_id: id }, query: { card: text } } }),
      ),
    enabled: text !== "",
    staleTime: Number.POSITIVE_INFINITY,
    placeholderData: keepPreviousData,
    retry: false,
  }).data;
}
