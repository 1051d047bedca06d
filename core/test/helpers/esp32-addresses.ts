/** Numbers from 0 to one below a count. */
function upTo(count: number): number[] {
  return Array.from({ length: count }, (_, n) => n);
}

/**
 * Addresses that the usual headers of ESP32 give, by their names: written down from the technical reference manual, and from nothing of
 * the part data.
 */
export function addressesOfEsp32(): Map<string, number> {
  const all: [string, number][] = [
    ['DPORT_PERIP_CLK_EN_REG', 0x3ff000c0],
    ['DPORT_PERIP_RST_EN_REG', 0x3ff000c4],
    // One word for each source, from that of the radio's controller at 0x104 on.
    ['DPORT_PRO_TG_T0_LEVEL_INT_MAP_REG', 0x3ff0013c],
    ['DPORT_PRO_TG_T1_LEVEL_INT_MAP_REG', 0x3ff00140],
    ['DPORT_PRO_TG1_T0_LEVEL_INT_MAP_REG', 0x3ff0014c],
    ['DPORT_PRO_TG1_T1_LEVEL_INT_MAP_REG', 0x3ff00150],
    ['DPORT_PRO_LEDC_INT_MAP_REG', 0x3ff001b0],
    ['GPIO_OUT_W1TS_REG', 0x3ff44008],
    ['GPIO_OUT_W1TC_REG', 0x3ff4400c],
    ['GPIO_OUT1_W1TS_REG', 0x3ff44014],
    ['GPIO_OUT1_W1TC_REG', 0x3ff44018],
    ['GPIO_ENABLE_REG', 0x3ff44020],
    ['GPIO_ENABLE1_REG', 0x3ff4402c],
    ...upTo(40).map((n): [string, number] => [`GPIO_FUNC${n}_OUT_SEL_CFG_REG`, 0x3ff44530 + 4 * n]),
    // The pads in the order of their registers, from 0x10 on.
    ...[
      [0, 0x44],
      [1, 0x88],
      [2, 0x40],
      [3, 0x84],
      [4, 0x48],
      [5, 0x6c],
      [12, 0x34],
      [13, 0x38],
      [14, 0x30],
      [15, 0x3c],
      [16, 0x4c],
      [17, 0x50],
      [18, 0x70],
      [19, 0x74],
      [21, 0x7c],
      [22, 0x80],
      [23, 0x8c],
      [25, 0x24],
      [26, 0x28],
      [27, 0x2c],
      [32, 0x1c],
      [33, 0x20],
    ].map(([pin, at]): [string, number] => [`IO_MUX_GPIO${pin}_REG`, 0x3ff49000 + (at ?? 0)]),
    ...upTo(2).flatMap((group) => {
      const base = 0x3ff5f000 + 0x1000 * group;
      const timers = upTo(2).flatMap((n) =>
        ['CONFIG', 'LO', 'HI', 'UPDATE', 'ALARMLO', 'ALARMHI', 'LOADLO', 'LOADHI', 'LOAD'].map(
          (name, at): [string, number] => [`TIMG_T${n}${name}_REG(${group})`, base + 0x24 * n + 4 * at],
        ),
      );
      const flags = ['ENA', 'RAW', 'ST', 'CLR'].map((name, at): [string, number] => [
        `TIMG_INT_${name}_TIMERS_REG(${group})`,
        base + 0x98 + 4 * at,
      ]);
      return [...timers, ...flags];
    }),
    ...['H', 'L'].flatMap((speed, at) => [
      ...upTo(8).flatMap((n) =>
        ['CONF0', 'HPOINT', 'DUTY', 'CONF1', 'DUTY_R'].map((name, word): [string, number] => [
          `LEDC_${speed}SCH${n}_${name}_REG`,
          0x3ff59000 + 0xa0 * at + 0x14 * n + 4 * word,
        ]),
      ),
      ...upTo(4).map((n): [string, number] => [
        `LEDC_${speed}STIMER${n}_CONF_REG`,
        0x3ff59140 + 0x20 * at + 8 * n,
      ]),
    ]),
    ['LEDC_INT_RAW_REG', 0x3ff59180],
    ['LEDC_INT_ST_REG', 0x3ff59184],
    ['LEDC_INT_ENA_REG', 0x3ff59188],
    ['LEDC_INT_CLR_REG', 0x3ff5918c],
    ['LEDC_CONF_REG', 0x3ff59190],
  ];
  return new Map(all);
}
