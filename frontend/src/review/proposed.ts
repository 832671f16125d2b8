/* One picture of a review: what it proposes itself, and what it would be with that. */
import {
  client,
  taken,
  whole,
  type Draft,
  type Edit,
  type PictureState,
  type ProposalOut,
  type Want,
} from "../api/client";

export interface Reviewed {
  state: PictureState;
  found: ProposalOut;
  /** What it would become; undefined where there is nothing to take. */
  draft: Draft | undefined;
}

export async function readProposed(id: number, want: Want): Promise<Reviewed> {
  const path = { params: { path: { picture_id: id } } };
  const state = await taken(client.GET("/api/pictures/{picture_id}", path));
  const based_on = state.entry_id;
  const found = await taken(
    client.POST("/api/pictures/{picture_id}/proposal", {
      ...path,
      body: { based_on, edits: [], want },
    }),
  );
  const draft = found.take
    ? await taken(
        client.POST("/api/pictures/{picture_id}/draft", {
          ...path,
          body: { based_on, edits: whole([found.take as Edit]) },
        }),
      )
    : undefined;
  return { state, found, draft };
}
