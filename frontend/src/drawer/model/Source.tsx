import { FolderSync, Upload } from "lucide-react";
import { useState } from "react";
import { type AssemblyActions, useFollowed } from "../../api/assembly";
import { useSend } from "../../api/upload";
import { Button } from "../../ui/controls";
import { FileButton } from "../../ui/FileButton";
import * as t from "../../words/texts/drawer/model/Source";
import { Section } from "./Section";

interface Props {
  reviewId: string;
  id: string;
  /** Of the model, where there are several. */
  name?: string;
  assembly: AssemblyActions;
}

/** Where a model comes from: its next revision by hand, or from a file on the server that is followed. */
export function Source({ reviewId, id, name, assembly }: Props) {
  const send = useSend();
  const [path, setPath] = useState("");
  const followed = useFollowed(reviewId).data?.find((one) => one.model === id);
  return (
    <Section
      title={name ? t.updateModel(name) : t.updateModel2}
      fact={followed?.newer ? t.aNewerFileIs : followed ? "followed" : ""}
    >
      <FileButton
        label={t.newerFile}
        onFile={(file) => send(file, { purpose: "replace", review_id: reviewId, model: id })}
      >
        <Upload size={12} className="mr-1.5 inline" />
        {t.replaceWithNewerFile}
      </FileButton>
      {followed ? (
        <div className="rounded-sm border border-rule bg-white px-2.5 py-2 text-[12px]">
          <p className="break-all">
            <FolderSync size={12} className="mr-1.5 inline text-ink-2" />
            {followed.path}
          </p>
          {followed.problem && <p className="text-stop">{followed.problem}</p>}
          <p className="why">{followed.newer ? t.aNewerFileIsThere : t.watchedTheReviewHas}</p>
          <div className="mt-1 flex gap-3">
            {followed.newer && (
              <Button look="mark" onClick={() => assembly.takeNewer(id)}>
                {t.lookAtIt}
              </Button>
            )}
            <Button look="text" onClick={() => assembly.unfollow(id)}>
              {t.stopFollowing}
            </Button>
          </div>
        </div>
      ) : (
        <form
          className="flex gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            if (path.trim()) assembly.follow(id, path.trim());
          }}
        >
          <input
            aria-label={t.fileOnTheServer}
            placeholder={t.pathOnTheServer}
            className="h-[27px] min-w-0 flex-1 rounded-md border border-rule-strong bg-white px-2"
            value={path}
            onChange={(event) => setPath(event.target.value)}
            onKeyDown={(event) => event.stopPropagation()}
          />
          <Button type="submit" disabled={!path.trim()}>
            {t.watch}
          </Button>
        </form>
      )}
    </Section>
  );
}
