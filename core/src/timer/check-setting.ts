import type { Part } from '../part/schema.ts';
import { isOutput, resolveSetting, type Setting } from './setting.ts';
import { resolveCapture } from './capture.ts';
import { resolveBusy, resolveSoft } from './soft.ts';

/** Checks that a part can do a setting of any drive. @throws SettingError with the field at fault. */
export function checkSetting(part: Part, setting: Setting): void {
  if (isOutput(setting)) resolveSetting(part, setting);
  else if (setting.drive === 'busy') resolveBusy(part, setting);
  else if (setting.drive === 'capture') resolveCapture(part, setting);
  else resolveSoft(part, setting);
}
