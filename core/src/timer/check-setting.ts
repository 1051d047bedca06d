import type { Part } from '../part/types.ts';
import { isOutput, resolveSetting, type Setting } from './setting.ts';
import { resolveCapture } from './capture.ts';
import { resolveDelayLoop, resolveSoftware } from './software.ts';

/** Checks that a part can do a setting of any drive. @throws SettingError with the field at fault. */
export function checkSetting(part: Part, setting: Setting): void {
  if (isOutput(setting)) resolveSetting(part, setting);
  else if (setting.drive === 'delay-loop') resolveDelayLoop(part, setting);
  else if (setting.drive === 'capture') resolveCapture(part, setting);
  else resolveSoftware(part, setting);
}
