import * as t from "../words/texts/desk/settingsOfOne";
/** Name, field (of several, the one that is there), other words for it, section, and what brings the field. */
export type Row = [string, string, string, string?, string?];

/** Settings of the lamp that is selected. Fields that differ by its kind stand beside each other. */
export const LAMP: Row[] = [
  [t.lightOfTheLamp, t.luminanceIntensityLuminousFlux, t.powerLumenCandelaLux],
  [t.colourOfTheLamp, t.colour, t.kelvinTemperatureWarmCold],
  [t.filterOfTheLamp, t.filterHex, t.gelTint],
  [t.sizeOfTheLamp, t.widthLengthDiameterSize, t.softShadowAreaPenumbra],
  [t.positionOfTheLamp, t.positionXDirection, t.movePlaceAzimuth],
  [t.whereTheLampIs, t.aimedAtXHeight, t.targetDirectionElevation],
  [t.theCameraSeesThe, t.theCameraSeesIt, t.visibleHide],
  [t.shinySurfacesShowThe, t.shinySurfacesShowIt, t.reflectionVisibleSpecular],
  [t.placeTheLampBy, t.highlightHere, t.reflectionPointGlint],
  [t.placeTheLampByIts, t.shadowHere, t.pointCast],
];

/** Settings of the decal that is selected. */
export const DECAL: Row[] = [
  [t.widthOfTheDecal, t.widthOfTheDecal, t.sizeLabelScale],
  [t.heightOfTheDecal, t.heightOfTheDecal, t.sizeLabelScale],
  [t.turnTheDecal, t.turn, t.rotateLabel],
  [t.opacityOfTheDecal, t.opacity, t.alphaSeeThroughLabel],
  [t.depthOfTheDecal, t.depth, t.reachProjectionLabel],
  [t.facesOfTheDecal, t.facesThatTheDecal, t.clipMaskLabel],
  [t.printBehindGlass, t.toTheFarSide, t.decalLabelInnerSide],
  [t.finishOfTheDecal, t.finishOfTheDecal, t.printFoilEngravedEmbossed],
  [t.lockTheDecal, t.locked, t.protectFreezeLabel],
  [t.mirrorTheDecal, t.mirrored, t.flipLabel],
];
