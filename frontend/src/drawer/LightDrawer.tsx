import { memo } from "react";
import type { Edit, Standing } from "../api/client";
import { useDesk } from "../state/deskStore";
import { lightingOf } from "../state/lighting";
import * as t from "../words/texts/drawer/LightDrawer";
import { FloorAndBackdrop } from "./light/FloorAndBackdrop";
import { LampFields } from "./light/LampFields";
import { PictureLight } from "./light/PictureLight";
import { SurroundingsFields } from "./light/SurroundingsFields";

interface Props {
  reviewId: string;
  standing: Standing;
  shotId: string;
  edit: (change: Edit) => void;
}

/** The settings of the selected light, floor and backdrop, and the picture's light to judge by. */
export const LightDrawer = memo(function LightDrawer({ standing, shotId, edit }: Props) {
  const { id, lighting } = lightingOf(standing, shotId);
  const light = useDesk((state) => state.light);
  const lamp = lighting.lamps[light];
  return (
    <>
      {lamp ? (
        <LampFields key={light} {...{ id, light, lamp, lighting, edit }} />
      ) : light === "glow" ? (
        <header>
          <span className="cap">{t.glowingParts}</span>
          <p className="why mt-1.5">{t.allPartsThatWear}</p>
        </header>
      ) : (
        <SurroundingsFields {...{ standing, id, lighting, edit }} />
      )}
      <hr className="border-rule" />
      <FloorAndBackdrop {...{ standing, id, lighting, edit }} />
      <hr className="border-rule" />
      <PictureLight {...{ id, lighting, edit }} />
    </>
  );
});
