import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, type Schemas, type Section, taken } from "./client";

/** What a section does to the parts of a shot. */
export const showSection = (review_id: string, shot_id: string, section: Section) =>
  taken<Schemas["SectionShown"]>(
    api.POST("/api/reviews/{review_id}/shots/{shot_id}/section", {
      params: { path: { review_id, shot_id } },
      body: { section },
    }),
  );

/** The section along a flat face, or through the axis of a round one. */
export const sectionThrough = async (
  review_id: string,
  shot_id: string,
  face: { uid: string; face: number },
) =>
  (
    await taken<Schemas["SectionMade"]>(
      api.POST("/api/reviews/{review_id}/shots/{shot_id}/section/face", {
        params: { path: { review_id, shot_id } },
        body: { face },
      }),
    )
  ).section as Section;

/** The same, asked anew after every edit and while the plane is dragged; nothing without a section. */
export function useSection(review: string, shot: string, seq: number, section: Section | null | undefined) {
  const { data } = useQuery({
    queryKey: ["section", review, shot, seq, section],
    queryFn: () => showSection(review, shot, section!),
    enabled: Boolean(section),
    placeholderData: keepPreviousData,
  });
  return section ? data : undefined;
}
