/** Words of drawer/Grading.tsx. */
export const contrast = "Contrast";
export const saturation = "Saturation";
export const vignette = "Vignette";
export const glare = "Glare";
export const sharpening = "Sharpening";
export const contrastVignetteGlare = "Contrast, vignette, glare";
export const withItAgain = "With it again";
export const showWithout = "Show without";
export const reset = "Reset";
export const theBackdropKeepsIts =
  "The backdrop keeps its colour under contrast and saturation. Vignette, glare and sharpening show in the traced picture and in stills.";
