import { useMemo } from "react";
import type { Model, Shot, Standing } from "../api/client";
import { useStandingIn } from "../api/queries";
import { viewOf } from "../state/camera";
import { useDesk } from "../state/deskStore";
import { litBy } from "../state/lighting";
import { Viewport } from "../viewport/Viewport";
import * as t from "../words/texts/desk/Beside";
import { type Size, useLampFrames } from "./lamp";
import { TracedPicture } from "./TracedPicture";

interface Props {
  reviewId: string;
  model: Model;
  /** The scene of which another look is shown. */
  standing: Standing;
  look: string;
  shotId: string;
  shown: Size;
}

const nobody = () => undefined;

/** Another look of the same scene from the same view, shaded or traced like the picture that it lies beside. */
export function Beside(props: Props) {
  const other = useStandingIn(props.reviewId, props.look, props.standing.seq).data;
  if (!other) return <p className="grid h-full place-items-center bg-sheet">{t.fetchingTheLook}</p>;
  const scene = { ...other.scene, look: props.look };
  return <InLook {...props} standing={{ ...other, scene }} />;
}

function InLook({ reviewId, model, standing, look, shotId, shown }: Props) {
  const lamp = useDesk((state) => state.lamp);
  const frame = useDesk((state) => state.besideFrame);
  const viewKey = useLampFrames({ reviewId, standing, shotId, shown, beside: look });
  const covers = lamp && frame?.viewKey === viewKey && frame.region === undefined;
  return (
    <>
      <Viewport {...{ reviewId, model, standing, shotId }} onStage={nobody} traced={covers} />
      {lamp && <TracedPicture viewKey={viewKey} beneath={covers} beside />}
    </>
  );
}

interface LightingProps extends Omit<Props, "look"> {
  lighting: string;
}

/** The same scene in another lighting, shaded or traced like the picture that it lies beside. */
export function BesideLighting({ reviewId, model, standing, lighting, shotId, shown }: LightingProps) {
  const other = useMemo(() => litBy(standing, shotId, lighting), [standing, shotId, lighting]);
  const lamp = useDesk((state) => state.lamp);
  const frame = useDesk((state) => state.besideFrame);
  const viewKey = useLampFrames({ reviewId, standing, shotId, shown, lighting });
  const covers = lamp && frame?.viewKey === viewKey && frame.region === undefined;
  return (
    <>
      <Viewport {...{ reviewId, model, standing: other, shotId }} onStage={nobody} traced={covers} apart />
      {lamp && <TracedPicture viewKey={viewKey} beneath={covers} beside />}
    </>
  );
}

interface ShotProps extends Omit<Props, "look" | "shotId"> {
  /** The shot that is shown, by id. */
  other: string;
}

/** Another shot, as it is kept, in its own shape within the place of the picture that it lies beside. */
export function BesideShot({ reviewId, model, standing, other, shown }: ShotProps) {
  const shot = standing.scene.shots[other] as Required<Shot>;
  const from = useMemo(() => viewOf(shot.camera), [shot.camera]);
  const width = Math.min(shown.width, (shown.height * shot.width) / shot.height);
  const size = useMemo(
    () => ({ width, height: (width * shot.height) / shot.width }),
    [width, shot.height, shot.width],
  );
  const lamp = useDesk((state) => state.lamp);
  const frame = useDesk((state) => state.besideFrame);
  const viewKey = useLampFrames({ reviewId, standing, shotId: other, shown: size, from });
  const covers = lamp && frame?.viewKey === viewKey && frame.region === undefined;
  return (
    <div className="relative isolate mx-auto" style={size}>
      <Viewport
        {...{ reviewId, model, standing, from }}
        shotId={other}
        onStage={nobody}
        traced={covers}
        apart
      />
      {lamp && <TracedPicture viewKey={viewKey} beneath={covers} beside />}
    </div>
  );
}
