import { keepPicture } from "../api/appearance";
import type { Decal, Edit, Standing } from "../api/client";
import { clearedPicture } from "../api/decals";
import { toast } from "../api/toast";
import { FileButton } from "../ui/FileButton";
import * as t from "../words/texts/drawer/ExchangeFile";

interface Props {
  decal: Decal;
  standing: Standing;
  edit: (change: Edit) => void;
}

/** What a decal of a file came from, before its background was made clear. */
const sourceOf = (decal: Decal) => decal.cleared?.source ?? decal.picture;

/** Another file in place of a decal's own, wherever that is used: each keeps its place and width. */
export function ExchangeFile({ decal, standing, edit }: Props) {
  const users = Object.entries(standing.scene.decals).filter(
    ([, other]) => !other.drawing && sourceOf(other) === sourceOf(decal),
  );
  const exchange = async (file: File) => {
    try {
      const { picture, width, height } = await keepPicture(file);
      const aspect = width / height;
      const changed = users.map(async ([id, user]) => {
        const cleared = user.cleared && { ...user.cleared, source: picture };
        const shown = cleared ? await clearedPicture(cleared) : picture;
        return [id, { ...user, picture: shown, cleared, height: Math.max(0.1, user.width / aspect) }];
      });
      edit({ kind: "set_decals", decals: Object.fromEntries(await Promise.all(changed)) });
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  return (
    <div className="flex items-center gap-2">
      <FileButton label={t.otherFile} accept=".png,.jpg,.jpeg,.tif,.tiff,.webp,.svg,.pdf" onFile={exchange}>
        {t.exchangeFile}
      </FileButton>
      {users.length > 1 && <span className="why">{t.inAllDecalsThat(users.length)}</span>}
    </div>
  );
}
