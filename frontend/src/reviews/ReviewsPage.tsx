import { useQueryClient } from "@tanstack/react-query";
import { Copy, Pencil, Trash2, Upload, X } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { Link, useLocation } from "wouter";
import type { IntakeLine, ReviewLine } from "../api/client";
import { ACCEPTED } from "../api/formats";
import { actions, useAct, useReviews } from "../api/queries";
import { openPicture } from "../api/stills";
import { toast } from "../api/toast";
import {
  byModel,
  defaultsFor,
  holdFurther,
  modelFiles,
  type Upload as Sending,
  sentWords,
  together,
  useUpload,
} from "../api/upload";
import { Button, IconButton, Mark } from "../ui/controls";
import { Hint } from "../ui/Hint";
import { oneTabStop } from "../ui/oneTabStop";
import { SeveralFiles } from "../ui/SeveralFiles";
import { day } from "../words/numbers";
import { loadTypefaces } from "../words/scripts";
import * as t from "../words/texts/reviews/ReviewsPage";
import { TracingSettings } from "./TracingSettings";

/** Said in place of a picture that is not there yet. */
const TRACING = t.thePictureIsBeing;

/** All reviews, and the way to a new one. */
export function ReviewsPage() {
  const [watching, setWatching] = useState(false);
  const found = useReviews(watching);
  useEffect(() => loadTypefaces(JSON.stringify(found.data ?? "")), [found.data]);
  const [over, setOver] = useState(false);
  const picker = useRef<HTMLInputElement>(null);
  const upload = useUpload();
  const [, go] = useLocation();
  const [several, setSeveral] = useState<File[]>();
  const take = async (list: FileList | null) => {
    const still = [...(list ?? [])].find((one) => /\.png$/i.test(one.name));
    if (still) {
      try {
        go(`/reviews/${(await openPicture(still)).id}`);
      } catch (problem) {
        toast.error((problem as Error).message);
      }
      return;
    }
    const files = [...(list ?? [])];
    if (byModel(files).length > 1) setSeveral(files);
    else begin(await together(files));
  };
  const begin = (file: File | undefined) => {
    setSeveral(undefined);
    holdFurther("", []);
    if (file) upload.start(file, defaultsFor(file.name));
  };
  const beginAll = async (files: File[]) => {
    const [first, ...others] = await modelFiles(files);
    begin(first);
    holdFurther(first?.name ?? "", others);
  };
  const intakes = found.data?.intakes ?? [];
  const reviews = found.data?.reviews ?? [];
  useEffect(() => {
    document.title = t.reviewsUsualLamp;
  }, []);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const typing = event.target instanceof HTMLInputElement || event.target instanceof HTMLTextAreaElement;
      const plain = !event.ctrlKey && !event.metaKey && !event.altKey;
      if (event.key.toLowerCase() === "i" && plain && !typing) picker.current?.click();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  const busy = intakes.some((run) => run.state === "queued" || run.state === "running");
  const young = reviews.some(
    (review) => !review.cover && Date.now() - Date.parse(`${review.updated}Z`) < 300_000,
  );
  useEffect(() => setWatching(busy || young), [busy, young]);

  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping is a second way; the button is the first
    <div
      className="flex h-full flex-col"
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={(event) => event.currentTarget === event.target && setOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        take(event.dataTransfer.files);
      }}
    >
      <header className="flex h-[46px] shrink-0 items-center gap-3 border-b border-rule-strong px-3.5">
        <span className="flex items-center gap-2 text-[14px] font-semibold">
          <Mark />
          {t.usualLamp}
        </span>
        <span className="text-rule-strong">/</span>
        <b className="font-semibold">{t.reviews}</b>
        <span className="flex-1" />
        <TracingSettings />
        <Hint text={t.importACadOr} keys="I">
          <Button look="ink" className="!h-8 !px-3.5 !font-semibold" onClick={() => picker.current?.click()}>
            {t.newReviewFromA}
          </Button>
        </Hint>
        <input
          ref={picker}
          type="file"
          aria-label={t.cadFile}
          accept={`${ACCEPTED},.png`}
          multiple
          className="hidden"
          onChange={(event) => {
            take(event.target.files).then(() => {
              if (picker.current) picker.current.value = "";
            });
          }}
        />
      </header>
      <main className="min-h-0 flex-1 overflow-y-auto p-6">
        {found.isError && <p className="text-stop">{found.error.message}</p>}
        <Running upload={upload.state} onStopUpload={upload.stop} intakes={intakes} />
        {found.data && reviews.length === 0 && intakes.length === 0 && (
          <div className="mx-auto mt-24 max-w-md text-center">
            <Upload className="mx-auto mb-3 text-ink-3" />
            <p className="mb-2 text-[15px] font-semibold">{t.noReviewYet}</p>
            <p className="text-ink-2">{t.dropACadFile}</p>
          </div>
        )}
        <div ref={oneTabStop} className="grid grid-cols-[repeat(auto-fill,minmax(250px,1fr))] gap-5">
          {reviews.map((review) => (
            <ReviewCard key={review.id} review={review} />
          ))}
        </div>
      </main>
      <SeveralFiles
        files={several}
        separately={t.modelsInOneReview}
        onSeparately={beginAll}
        onTogether={async (files) => begin(await together(files))}
        onClose={() => setSeveral(undefined)}
      />
      {over && (
        <div className="pointer-events-none fixed inset-3 z-30 grid place-items-center rounded-md border-2 border-mark border-dashed bg-mark-soft/80 text-[15px] font-semibold text-mark">
          {t.dropTheFileTo}
        </div>
      )}
    </div>
  );
}

function Running({
  upload,
  onStopUpload,
  intakes,
}: {
  upload?: Sending;
  onStopUpload: () => void;
  intakes: IntakeLine[];
}) {
  const act = useAct(["reviews"]);
  return (
    <div className="mb-4 flex flex-col gap-2 empty:hidden">
      {upload && (
        <Progress
          name={upload.name}
          stage={t.sendingTheFile(sentWords(upload))}
          share={upload.sent / Math.max(1, upload.size)}
          onStop={onStopUpload}
        />
      )}
      {intakes.map((run) => (
        <IntakeProgress
          key={run.id}
          run={run}
          onStop={() => act(() => actions.stopIntake(run.id)).catch(() => undefined)}
        />
      ))}
    </div>
  );
}

/** One intake: how far it is, or why it failed, until that is put away. */
function IntakeProgress({ run, onStop }: { run: IntakeLine; onStop: () => void }) {
  if (run.state === "failed")
    return (
      <div className="flex items-center gap-3 rounded-md border border-stop bg-sheet px-3 py-2" role="alert">
        <b className="max-w-64 truncate font-semibold">{run.file_name}</b>
        <span className="flex-1 text-stop">{run.message}</span>
        <IconButton label={t.putAway} onClick={onStop}>
          <X size={15} />
        </IconButton>
      </div>
    );
  if (run.state === "ready")
    return (
      <div className="flex items-center gap-3 rounded-md border border-mark bg-sheet px-3 py-2" role="status">
        <b className="max-w-64 truncate font-semibold">{run.file_name}</b>
        <span className="flex-1">{t.isReadyToImport}</span>
        <Link href={`/intakes/${run.id}`} className="font-medium text-mark hover:underline">
          {t.lookAtWhatWas}
        </Link>
        <IconButton label={t.discard} onClick={onStop}>
          <X size={15} />
        </IconButton>
      </div>
    );
  return <Progress name={run.name} stage={run.stage} share={run.progress} onStop={onStop} />;
}

function Progress({
  name,
  stage,
  share,
  onStop,
}: {
  name: string;
  stage: string;
  share: number;
  onStop: () => void;
}) {
  return (
    <div className="flex items-center gap-3 rounded-md border border-rule bg-sheet px-3 py-2" role="status">
      <b className="max-w-64 truncate font-semibold">{name}</b>
      <span className="why w-56 truncate">{stage}</span>
      <span className="h-[3px] flex-1 rounded-sm bg-rule">
        <span className="block h-full rounded-sm bg-ink" style={{ width: `${Math.round(share * 100)}%` }} />
      </span>
      <span className="figures w-10 text-right">{Math.round(share * 100)} %</span>
      <IconButton label={t.stop} onClick={onStop}>
        <X size={15} />
      </IconButton>
    </div>
  );
}

function ReviewCard({ review }: { review: ReviewLine }) {
  const act = useAct(["reviews"]);
  const client = useQueryClient();
  const [, go] = useLocation();
  const [draft, setDraft] = useState<string>();
  const remove = async () => {
    await act(() => actions.remove(review.id));
    toast(t.removed(review.name), {
      duration: 10_000,
      action: { label: t.undo, onClick: () => act(() => actions.restore(review.id)) },
    });
  };
  const rename = () => {
    if (draft?.trim() && draft !== review.name)
      act(() => actions.rename(review.id, draft)).catch(() => undefined);
    setDraft(undefined);
    client.removeQueries({ queryKey: ["review", review.id] });
  };
  return (
    <article
      className="group flex flex-col border border-rule-strong bg-sheet hover:border-ink-3"
      data-review={review.id}
      data-row={review.name}
    >
      <Link
        href={`/reviews/${review.id}`}
        aria-label={t.open(review.name, review.cover ? "" : `, ${TRACING}`)}
        className="block aspect-[4/3] bg-mat"
      >
        {review.cover ? (
          <img src={`/api/blobs/${review.cover}`} alt="" className="h-full w-full object-cover" />
        ) : (
          <span className="grid h-full place-items-center text-ink">{TRACING}</span>
        )}
      </Link>
      <div className="border-t border-rule px-3 pt-2 pb-1.5">
        {draft === undefined ? (
          <button
            type="button"
            className="block w-full cursor-pointer truncate text-left font-semibold"
            onClick={() => go(`/reviews/${review.id}`)}
          >
            {review.name}
          </button>
        ) : (
          <input
            // biome-ignore lint/a11y/noAutofocus: the field replaces the name that is being changed
            autoFocus
            aria-label={t.nameOfTheReview}
            maxLength={120}
            className="w-full border-b border-mark bg-transparent font-semibold outline-none"
            value={draft}
            onChange={(event) => setDraft(event.target.value)}
            onBlur={rename}
            onKeyDown={(event) => {
              if (event.key === "Enter") rename();
              if (event.key === "Escape") setDraft(undefined);
            }}
          />
        )}
        <div className="flex items-center justify-between">
          <span className="why truncate">
            {day(review.updated)} · {review.file_name}
            {review.stills > 0 && ` · ${review.stills} ${review.stills === 1 ? t.still : t.stills}`}
          </span>
          <span className="flex">
            <IconButton label={t.rename} onClick={() => setDraft(review.name)}>
              <Pencil size={13} />
            </IconButton>
            <IconButton
              label={t.copy}
              onClick={() => act(() => actions.copy(review.id)).catch(() => undefined)}
            >
              <Copy size={13} />
            </IconButton>
            <IconButton label={t.remove} onClick={() => remove().catch(() => undefined)}>
              <Trash2 size={13} />
            </IconButton>
          </span>
        </div>
      </div>
    </article>
  );
}
