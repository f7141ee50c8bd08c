import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { api, need } from "../api/client";
import { isOpen } from "../api/queries";
import { Button } from "../ui/button";
import { Dialog } from "../ui/dialog";
import { cm2, length, volume } from "../ui/format";

type Props = {
  item: number;
  revision: number;
  /** Numbers of the two pieces. */
  pieces: readonly [number, number];
  onShow: (at: readonly number[]) => void;
  onClose: () => void;
};

const place = (at: readonly number[]) => at.map((x) => x.toFixed(2)).join(", ");

/** How two pieces lie to each other: how near they come, or what they share; computed once. */
export function Between({ item, revision, pieces, onShow, onClose }: Props) {
  const queries = useQueryClient();
  const [first, second] = [...pieces].sort((a, b) => a - b) as [number, number];
  // asked again as the item's work goes on
  const queryKey = ["item", item, "clearance", revision, first, second];
  const known = useQuery({
    queryKey,
    queryFn: () =>
      need(
        api.GET("/api/revisions/{id}/clearances/{first}/{second}", {
          params: { path: { id: revision, first, second } },
        }),
      ),
  }).data;
  const { mutate, error } = useMutation({
    mutationFn: () =>
      need(
        api.POST("/api/revisions/{id}/clearances", {
          params: { path: { id: revision } },
          body: { pieces: [first, second] },
        }),
      ),
    onSuccess: (told) => queries.setQueryData(queryKey, told),
  });
  const due = known !== undefined && !known.told && !known.job;
  useEffect(() => {
    if (due) mutate();
  }, [due, mutate]);
  const told = known?.told;
  const fell = known?.job && !isOpen(known.job) && !told ? known.job.message : error?.message;
  return (
    <Dialog
      open
      onOpenChange={(next) => !next && onClose()}
      title={`Between piece ${first} and piece ${second}`}
      about="Each with all that lies in it."
    >
      {told ? (
        <div className="space-y-3">
          {told.shared_mm3 > 0 ? (
            <p>
              They share <b className="font-[650]">{volume(told.shared_mm3)}</b>; the one reaches{" "}
              <b className="font-[650]">{length(told.depth_mm)}</b> into the other, at{" "}
              {place(told.deepest)} mm.
            </p>
          ) : (
            <p>
              They come as near as <b className="font-[650]">{told.gap_mm.toFixed(3)} mm</b>, at{" "}
              {place(told.ends[0]!)} mm.
            </p>
          )}
          {told.facing && (
            <p>
              Where they face each other ({cm2(told.facing.area_mm2)}) the gap is{" "}
              <b className="font-[650]">{told.facing.mean_mm.toFixed(3)} mm</b> on average and{" "}
              <b className="font-[650]">{told.facing.most_mm.toFixed(3)} mm</b> at most, at points{" "}
              {length(told.facing.spacing_mm)} apart.
            </p>
          )}
          <div className="flex gap-2">
            <Button look="primary" onClick={() => onShow(told.deepest)}>
              {told.facing ? "Show where it is narrowest" : "Show where"}
            </Button>
            {told.facing && (
              <Button onClick={() => onShow(told.facing!.widest)}>Show where it is widest</Button>
            )}
          </div>
        </div>
      ) : fell ? (
        <div className="space-y-3">
          <p role="alert" className="text-rust">
            {fell}
          </p>
          <Button onClick={() => mutate()}>Once more</Button>
        </div>
      ) : (
        <p role="status">Measuring…</p>
      )}
    </Dialog>
  );
}
