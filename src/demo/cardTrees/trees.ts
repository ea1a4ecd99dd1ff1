import type { TakeEvidence } from '../../core/intake';

/** A card as its files are laid out, and how it has to be read. Structures, not makers: every name is made up. */
export interface CardTree {
  id: string;
  what: string;
  /** One file a line: megabytes, then the path. "?" behind the size marks video by its contents, whatever its type. */
  files: string;
  /** What was read of files that may belong together: timecode of the first frame, frames, both at 25 a second. */
  evidence?: Record<string, [start: number, frames: number]>;
  /** Cards, clips, what is aside and what is doubtful, as `describeCards` says them. */
  expected: string;
}

/** What reading a tree's files says of them, for `RecogniseOptions.evidence`. */
export const evidenceOf = (tree: CardTree): Map<string, TakeEvidence> =>
  new Map(
    Object.entries(tree.evidence ?? {}).map(([path, [start, frames]]) => [
      path,
      { rate: { num: 25, den: 1 }, frames, start, began: null },
    ]),
  );

const numbered = (n: number, line: (digits: string) => string, length = 6, from = 1): string =>
  Array.from({ length: n }, (_, i) => line(String(i + from).padStart(length, '0'))).join('\n');

export const CARD_TREES: readonly CardTree[] = [
  {
    id: 'clip-and-sub',
    what: 'Video in CLIP, proxies with a suffix in SUB, thumbnails in THMBNL',
    files: `
      900 CLIP/T0001.MP4
      0.01 CLIP/T0001.XML
      700 CLIP/T0002.MP4
      20 SUB/T0001_px.MP4
      18 SUB/T0002_px.MP4
      0.02 THMBNL/T0001.JPG
      0.1 CARD.IDX`,
    expected: `
      card . clip-and-sub
      T0001 video: original CLIP/T0001.MP4, sidecar CLIP/T0001.XML, thumbnail THMBNL/T0001.JPG, cameraProxy SUB/T0001_px.MP4
      T0002 video: original CLIP/T0002.MP4, cameraProxy SUB/T0002_px.MP4
      aside CARD.IDX`,
  },
  {
    id: 'below-private',
    what: 'The same two folders down, below PRIVATE, with stills in DCIM beside it',
    files: `
      900 PRIVATE/WHARF/CLIP/T0001.MP4
      20 PRIVATE/WHARF/SUB/T0001_px.MP4
      0.1 PRIVATE/WHARF/CARD.IDX
      6 DCIM/100WHARF/WHAR0001.JPG`,
    expected: `
      card . clip-and-sub + dcf
      WHAR0001 still: original DCIM/100WHARF/WHAR0001.JPG
      T0001 video: original PRIVATE/WHARF/CLIP/T0001.MP4, cameraProxy PRIVATE/WHARF/SUB/T0001_px.MP4
      aside PRIVATE/WHARF/CARD.IDX`,
  },
  {
    id: 'unlisted-originals',
    what: 'Originals of a type that is not on the list, their proxies in SUB',
    files: `
      900? CLIP/T0001.KRV
      800? CLIP/T0002.KRV
      20 SUB/T0001_px.MP4
      18 SUB/T0002_px.MP4`,
    expected: `
      card . plain
      T0001_px video: original SUB/T0001_px.MP4
      T0002_px video: original SUB/T0002_px.MP4
      aside CLIP/T0001.KRV
      aside CLIP/T0002.KRV
      doubt 2 clips are in SUB/, a folder for proxies: CLIP/T0001.KRV may be an original of theirs, but its type (krv) is not on the list of file types`,
  },
  {
    id: 'one-unlisted-original',
    what: 'One original among others of a type that is not on the list',
    files: `
      900 CLIP/T0001.MP4
      800? CLIP/T0002.KRV
      20 SUB/T0001_px.MP4
      18 SUB/T0002_px.MP4`,
    expected: `
      card . clip-and-sub
      T0001 video: original CLIP/T0001.MP4, cameraProxy SUB/T0001_px.MP4
      aside CLIP/T0002.KRV
      aside SUB/T0002_px.MP4`,
  },
  {
    id: 'suffix-without-separator',
    what: 'Proxies whose suffix nothing separates, on a card of one clip',
    files: `
      900 CLIP/C0001.MXF
      20 SUB/C0001S03.MP4`,
    expected: `
      card . clip-and-sub
      C0001 video: original CLIP/C0001.MXF, cameraProxy SUB/C0001S03.MP4`,
  },
  {
    id: 'dcf',
    what: 'Video, stills and raw stills in DCIM',
    files: `
      900 DCIM/100SKRRY/SKRY0001.MP4
      0.02 DCIM/100SKRRY/SKRY0001.THM
      0.05 DCIM/100SKRRY/SKRY0001.SRT
      24 DCIM/101SKRRY/SKRY0002.DNG
      6 DCIM/101SKRRY/SKRY0002.JPG
      6 DCIM/101SKRRY/_KRY0003.JPG
      0.1 MISC/READER.CTG`,
    expected: `
      card . dcf
      SKRY0001 video: original DCIM/100SKRRY/SKRY0001.MP4, sidecar DCIM/100SKRRY/SKRY0001.SRT, thumbnail DCIM/100SKRRY/SKRY0001.THM
      _KRY0003 still: original DCIM/101SKRRY/_KRY0003.JPG
      SKRY0002 still: original DCIM/101SKRRY/SKRY0002.DNG, thumbnail DCIM/101SKRRY/SKRY0002.JPG
      aside MISC/READER.CTG`,
  },
  {
    id: 'chapters-middle',
    what: 'Chapters: two digits of chapter, then the number of the take; a small twin and a thumbnail of each',
    files: `
      3900 DCIM/100TIDES/WX010123.MP4
      3900 DCIM/100TIDES/WX020123.MP4
      812 DCIM/100TIDES/WX030123.MP4
      60? DCIM/100TIDES/WX010123.LRX
      61? DCIM/100TIDES/WX020123.LRX
      12? DCIM/100TIDES/WX030123.LRX
      0.01 DCIM/100TIDES/WX010123.THM
      500 DCIM/100TIDES/WX010124.MP4`,
    expected: `
      card . dcf
      WX010123 video: original DCIM/100TIDES/WX010123.MP4, segment DCIM/100TIDES/WX020123.MP4, segment DCIM/100TIDES/WX030123.MP4, thumbnail DCIM/100TIDES/WX010123.THM, cameraProxy DCIM/100TIDES/WX010123.LRX, cameraProxy DCIM/100TIDES/WX020123.LRX, cameraProxy DCIM/100TIDES/WX030123.LRX
      WX010124 video: original DCIM/100TIDES/WX010124.MP4`,
  },
  {
    id: 'chapters-old',
    what: 'Chapters whose first bears four letters, those behind it two and their number; one is missing',
    files: `
      3900 DCIM/100TIDES/WHAL0123.MP4
      3900 DCIM/100TIDES/WH010123.MP4
      812 DCIM/100TIDES/WH030123.MP4
      500 DCIM/100TIDES/WHAL0124.MP4`,
    expected: `
      card . dcf
      WHAL0123 video: original DCIM/100TIDES/WHAL0123.MP4, segment DCIM/100TIDES/WH010123.MP4, segment DCIM/100TIDES/WH030123.MP4; missing WH020123
      WHAL0124 video: original DCIM/100TIDES/WHAL0124.MP4`,
  },
  {
    id: 'chapters-front',
    what: 'Chapters numbered at the front of the name, as their timecode tells; files of the same pattern that do not are takes of their own',
    files: `
      1900 01_T0123.MOV
      1900 02_T0123.MOV
      40 03_T0123.MOV
      30 01_T0124.MOV
      900 02_T0124.MOV
      900 01_S0007.MOV
      900 02_S0007.MOV`,
    evidence: {
      '01_T0123.MOV': [0, 500],
      '02_T0123.MOV': [500, 500],
      '03_T0123.MOV': [1000, 10],
      '01_S0007.MOV': [5000, 100],
      '02_S0007.MOV': [9000, 100],
    },
    expected: `
      card . plain
      01_S0007 video: original 01_S0007.MOV
      01_T0123 video: original 01_T0123.MOV, segment 02_T0123.MOV, segment 03_T0123.MOV
      01_T0124 video: original 01_T0124.MOV
      02_S0007 video: original 02_S0007.MOV
      02_T0124 video: original 02_T0124.MOV`,
  },
  {
    id: 'following-numbers',
    what: 'Takes that go on under the next number, as their timecode tells; the fourth does not',
    files: `
      4000 DCIM/100SKRRY/SKRY0001.MP4
      4000 DCIM/100SKRRY/SKRY0002.MP4
      300 DCIM/100SKRRY/SKRY0003.MP4
      300 DCIM/100SKRRY/SKRY0004.MP4`,
    evidence: {
      'DCIM/100SKRRY/SKRY0001.MP4': [0, 500],
      'DCIM/100SKRRY/SKRY0002.MP4': [500, 500],
      'DCIM/100SKRRY/SKRY0003.MP4': [1000, 40],
      'DCIM/100SKRRY/SKRY0004.MP4': [9000, 40],
    },
    expected: `
      card . dcf
      SKRY0001 video: original DCIM/100SKRRY/SKRY0001.MP4, segment DCIM/100SKRRY/SKRY0002.MP4, segment DCIM/100SKRRY/SKRY0003.MP4
      SKRY0004 video: original DCIM/100SKRRY/SKRY0004.MP4`,
  },
  {
    id: 'listed-twin',
    what: 'A small twin of another listed type; two large files of one name are two clips',
    files: `
      900 DCIM/100SKRRY/SKRY0001.MOV
      60 DCIM/100SKRRY/SKRY0001.MP4
      0.01 DCIM/100SKRRY/SKRY0001.THM
      900 DCIM/100SKRRY/SKRY0002.MOV
      800 DCIM/100SKRRY/SKRY0002.MP4`,
    expected: `
      card . dcf
      SKRY0001 video: original DCIM/100SKRRY/SKRY0001.MOV, thumbnail DCIM/100SKRRY/SKRY0001.THM, cameraProxy DCIM/100SKRRY/SKRY0001.MP4
      SKRY0002 video: original DCIM/100SKRRY/SKRY0002.MOV
      SKRY0002 video: original DCIM/100SKRRY/SKRY0002.MP4`,
  },
  {
    id: 'phone-stills',
    what: 'A phone: stills with a short film of the same name, an edited version beside one, videos with a picture',
    files: `
      1.8 DCIM/100DUNES/DUN_0001.HEIC
      3.4 DCIM/100DUNES/DUN_0001.MOV
      0.002 DCIM/100DUNES/DUN_0001.AAE
      1.9 DCIM/100DUNES/DUN_E0001.HEIC
      3.3 DCIM/100DUNES/DUN_E0001.MOV
      300 DCIM/100DUNES/DUN_0002.MOV
      0.03 DCIM/100DUNES/DUN_0002.JPG
      30 DCIM/100DUNES/DUN_0003.MOV
      5 DCIM/100DUNES/DUN_0003.JPG`,
    expected: `
      card . dcf
      DUN_0001 still: original DCIM/100DUNES/DUN_0001.HEIC, motion DCIM/100DUNES/DUN_0001.MOV, sidecar DCIM/100DUNES/DUN_0001.AAE
      DUN_0002 video: original DCIM/100DUNES/DUN_0002.MOV, thumbnail DCIM/100DUNES/DUN_0002.JPG
      DUN_0003 video: original DCIM/100DUNES/DUN_0003.MOV, thumbnail DCIM/100DUNES/DUN_0003.JPG
      DUN_E0001 still: original DCIM/100DUNES/DUN_E0001.HEIC, motion DCIM/100DUNES/DUN_E0001.MOV`,
  },
  {
    id: 'phone-free-names',
    what: 'A phone whose names follow no standard: DCIM with a folder of its own, and a folder of films',
    files: `
      120 DCIM/Camera/20260505_101500.mp4
      4 DCIM/Camera/20260505_101733.jpg
      90 Movies/evening.mp4`,
    expected: `
      card . plain
      20260505_101500 video: original DCIM/Camera/20260505_101500.mp4
      20260505_101733 still: original DCIM/Camera/20260505_101733.jpg
      evening video: original Movies/evening.mp4`,
  },
  {
    id: 'stream',
    what: 'AVCHD streams with their index, stills in DCIM',
    files: `
      1900 PRIVATE/AVCHD/BDMV/STREAM/00000.MTS
      300 PRIVATE/AVCHD/BDMV/STREAM/00001.MTS
      0.01 PRIVATE/AVCHD/BDMV/CLIPINF/00000.CPI
      0.01 PRIVATE/AVCHD/BDMV/INDEX.BDM
      5 DCIM/100QUAYS/QUAY0001.JPG`,
    expected: `
      card . stream + dcf
      QUAY0001 still: original DCIM/100QUAYS/QUAY0001.JPG
      00000 video: original PRIVATE/AVCHD/BDMV/STREAM/00000.MTS, sidecar PRIVATE/AVCHD/BDMV/CLIPINF/00000.CPI
      00001 video: original PRIVATE/AVCHD/BDMV/STREAM/00001.MTS
      aside PRIVATE/AVCHD/BDMV/INDEX.BDM`,
  },
  {
    id: 'stream-and-mp4',
    what: 'AVCHD streams, and MP4 video in a folder of its own on the same card',
    files: `
      1900 PRIVATE/AVCHD/BDMV/STREAM/00000.MTS
      0.01 PRIVATE/AVCHD/BDMV/CLIPINF/00000.CPI
      700 MPFILES/100QUAY1/QUA00001.MP4
      0.01 MPFILES/100QUAY1/QUA00001.THM`,
    expected: `
      card . stream + dcf
      QUA00001 video: original MPFILES/100QUAY1/QUA00001.MP4, thumbnail MPFILES/100QUAY1/QUA00001.THM
      00000 video: original PRIVATE/AVCHD/BDMV/STREAM/00000.MTS, sidecar PRIVATE/AVCHD/BDMV/CLIPINF/00000.CPI`,
  },
  {
    id: 'op-atom',
    what: 'Picture and sound apart in CONTENTS, with proxies and voice notes',
    files: `
      900 CONTENTS/VIDEO/0001AB.MXF
      30 CONTENTS/AUDIO/0001AB00.MXF
      30 CONTENTS/AUDIO/0001AB01.MXF
      0.01 CONTENTS/CLIP/0001AB.XML
      0.02 CONTENTS/ICON/0001AB.BMP
      12 CONTENTS/PROXY/0001AB.MP4
      1 CONTENTS/VOICE/0001AB00.WAV
      0.01 LASTCLIP.TXT`,
    expected: `
      card . op-atom
      0001AB video: original CONTENTS/VIDEO/0001AB.MXF, sound CONTENTS/AUDIO/0001AB00.MXF, sound CONTENTS/AUDIO/0001AB01.MXF, sidecar CONTENTS/CLIP/0001AB.XML, sidecar CONTENTS/VOICE/0001AB00.WAV, thumbnail CONTENTS/ICON/0001AB.BMP, cameraProxy CONTENTS/PROXY/0001AB.MP4
      aside LASTCLIP.TXT`,
  },
  {
    id: 'folder-per-clip',
    what: 'A folder per clip with its look and a still',
    files: `
      900 A001_C001/A001_C001.MOV
      0.001 A001_C001/A001_C001.cdl
      0.2 A001_C001/A001_C001.jpg
      700 A001_C002/A001_C002.MXF`,
    expected: `
      card . folder-per-clip
      A001_C001 video: original A001_C001/A001_C001.MOV, look A001_C001/A001_C001.cdl, thumbnail A001_C001/A001_C001.jpg
      A001_C002 video: original A001_C002/A001_C002.MXF`,
  },
  {
    id: 'folder-with-extension',
    what: 'A folder per clip whose name carries an extension, numbered segments inside',
    files: `
      2000 A001_C001.CLD/A001_C001_001.MOV
      700 A001_C001.CLD/A001_C001_002.MOV
      900 A001_C002.CLD/A001_C002_001.MOV
      0.01 A001_C002.CLD/A001_C002.XML`,
    expected: `
      card . folder-per-clip
      A001_C001 video: original A001_C001.CLD/A001_C001_001.MOV, segment A001_C001.CLD/A001_C001_002.MOV
      A001_C002 video: original A001_C002.CLD/A001_C002_001.MOV, sidecar A001_C002.CLD/A001_C002.XML`,
  },
  {
    id: 'magazine',
    what: 'The same in the folder of a magazine',
    files: `
      2000 A001.MAG/A001_C001.CLD/A001_C001_001.MOV
      700 A001.MAG/A001_C001.CLD/A001_C001_002.MOV
      900 A001.MAG/A001_C002.CLD/A001_C002_001.MOV`,
    expected: `
      card A001.MAG folder-per-clip
      A001_C001 video: original A001_C001.CLD/A001_C001_001.MOV, segment A001_C001.CLD/A001_C001_002.MOV
      A001_C002 video: original A001_C002.CLD/A001_C002_001.MOV`,
  },
  {
    id: 'raw-frames',
    what: 'A folder per clip with numbered raw stills and the sound beside them',
    files: `
      ${numbered(12, (n) => `9 A001_C001/A001_C001_${n}.DNG`)}
      4 A001_C001/A001_C001.WAV
      ${numbered(3, (n) => `9 A001_C002/A001_C002_${n}.DNG`)}`,
    expected: `
      card . folder-per-clip
      A001_C001 stills: original A001_C001/A001_C001_000001.DNG, 11 × still, sound A001_C001/A001_C001.WAV
      A001_C002 stills: original A001_C002/A001_C002_000001.DNG, 2 × still`,
  },
  {
    id: 'clips-in-contents',
    what: 'Clip folders inside folders of CONTENTS',
    files: `
      900 CONTENTS/CLIPS001/A001C001/A001C001.MXF
      0.01 CONTENTS/CLIPS001/A001C001/A001C001.XML
      800 CONTENTS/CLIPS001/A001C002/A001C002.MXF
      700 CONTENTS/CLIPS002/A001C003/A001C003.MXF
      0.01 CONTENTS/INDEX.MIF`,
    expected: `
      card . folder-per-clip
      A001C001 video: original CONTENTS/CLIPS001/A001C001/A001C001.MXF, sidecar CONTENTS/CLIPS001/A001C001/A001C001.XML
      A001C002 video: original CONTENTS/CLIPS001/A001C002/A001C002.MXF
      A001C003 video: original CONTENTS/CLIPS002/A001C003/A001C003.MXF
      aside CONTENTS/INDEX.MIF`,
  },
  {
    id: 'odd-clip-among-folders',
    what: 'A folder per clip, with one clip loose and one in a folder of another name',
    files: `
      900 A001_C001/A001_C001.MOV
      900 A001_C002/A001_C002.MOV
      900 A001_C003/A001_C003.MOV
      100 test.mov
      100 chart/colours.mov`,
    expected: `
      card . folder-per-clip
      A001_C001 video: original A001_C001/A001_C001.MOV
      A001_C002 video: original A001_C002/A001_C002.MOV
      A001_C003 video: original A001_C003/A001_C003.MOV
      colours video: original chart/colours.mov
      test video: original test.mov`,
  },
  {
    id: 'spanned-folders',
    what: 'A take that goes on in the folder of the next clip',
    files: `
      4000 A001_C001/A001_C001.MXF
      4000 A001_C002/A001_C002.MXF
      300 A001_C003/A001_C003.MXF
      900 A001_C004/A001_C004.MXF`,
    evidence: {
      'A001_C001/A001_C001.MXF': [100, 500],
      'A001_C002/A001_C002.MXF': [600, 500],
      'A001_C003/A001_C003.MXF': [1100, 50],
      'A001_C004/A001_C004.MXF': [5000, 90],
    },
    expected: `
      card . folder-per-clip
      A001_C001 video: original A001_C001/A001_C001.MXF, segment A001_C002/A001_C002.MXF, segment A001_C003/A001_C003.MXF
      A001_C004 video: original A001_C004/A001_C004.MXF`,
  },
  {
    id: 'proxies-in-clip-folders',
    what: 'A folder per clip with the proxy in a folder inside, or beside with a suffix',
    files: `
      900 A001_C001/A001_C001.MOV
      20 A001_C001/PROXY/A001_C001.MP4
      900 A001_C002/A001_C002.MOV
      20 A001_C002/A001_C002_prx.MP4`,
    expected: `
      card . folder-per-clip
      A001_C001 video: original A001_C001/A001_C001.MOV, cameraProxy A001_C001/PROXY/A001_C001.MP4
      A001_C002 video: original A001_C002/A001_C002.MOV, cameraProxy A001_C002/A001_C002_prx.MP4`,
  },
  {
    id: 'sound-tracks',
    what: 'A sound recorder that writes a file per track, with a mix; bare numbers that begin together',
    files: `
      40 260505-T01_TrL.WAV
      40 260505-T01_Tr1.WAV
      80 260505-T01_TrMix.WAV
      30 260505-T02_1.WAV
      30 260505-T02_2.WAV
      30 260505-T02_3.WAV
      0.01 260505-T01.xml`,
    evidence: {
      '260505-T02_1.WAV': [1000, 250],
      '260505-T02_2.WAV': [1000, 250],
      '260505-T02_3.WAV': [1000, 250],
    },
    expected: `
      card . sound-folder
      260505-T01 sound: original 260505-T01_Tr1.WAV, sound 260505-T01_TrL.WAV, sound 260505-T01_TrMix.WAV, sidecar 260505-T01.xml
      260505-T02 sound: original 260505-T02_1.WAV, sound 260505-T02_2.WAV, sound 260505-T02_3.WAV`,
  },
  {
    id: 'sound-takes',
    what: 'A sound recorder whose takes are numbered and as long as one another: takes, not tracks',
    files: `
      30 TAKE_01.WAV
      30 TAKE_02.WAV`,
    evidence: { 'TAKE_01.WAV': [1000, 250], 'TAKE_02.WAV': [1250, 250] },
    expected: `
      card . sound-folder
      TAKE_01 sound: original TAKE_01.WAV
      TAKE_02 sound: original TAKE_02.WAV`,
  },
  {
    id: 'sound-subfolders',
    what: 'A sound recorder with takes in subfolders of the day',
    files: `
      30 260505/T01.WAV
      30 260505/WILD/T02.WAV
      30 260505/WILD/T03.WAV
      0.01 260505/REPORT.CSV`,
    expected: `
      card 260505 sound-folder
      T01 sound: original T01.WAV
      T02 sound: original WILD/T02.WAV
      T03 sound: original WILD/T03.WAV
      aside REPORT.CSV`,
  },
  {
    id: 'stills-subfolders',
    what: 'Numbered stills with a selection in a subfolder, sidecars of a raw developer beside them',
    files: `
      ${numbered(9, (n) => `6 LAPSE_${n}.JPG`, 4)}
      0.01 LAPSE_0001.XMP
      6 selects/BEST_0001.JPG`,
    expected: `
      card . numbered-stills
      LAPSE_0001 stills: original LAPSE_0001.JPG, 8 × still, sidecar LAPSE_0001.XMP
      BEST_0001 still: original selects/BEST_0001.JPG`,
  },
  {
    id: 'kinds-of-files',
    what: 'Folders of video, stills and sound beside one another',
    files: `
      900 VIDEO/V0001.MP4
      800 VIDEO/V0002.MP4
      6 PHOTO/P0001.JPG
      30 AUDIO/S0001.WAV`,
    expected: `
      card . numbered-stills + sound-folder
      S0001 sound: original AUDIO/S0001.WAV
      P0001 still: original PHOTO/P0001.JPG
      V0001 video: original VIDEO/V0001.MP4
      V0002 video: original VIDEO/V0002.MP4`,
  },
  {
    id: 'short-names',
    what: 'A clip of a one-letter name beside a file that only begins with it',
    files: `
      900 A.mp4
      0.01 A.xml
      0.01 audio_report.xml
      0.01 A_notes.xml`,
    expected: `
      card . plain
      A video: original A.mp4, sidecar A.xml, sidecar A_notes.xml
      aside audio_report.xml`,
  },
  {
    id: 'raw-video',
    what: 'Video and stills this machine cannot decode',
    files: `
      900 A001_C001/A001_C001.R3D
      0.01 A001_C001/A001_C001.XML
      700 A001_C002/A001_C002.CRM
      40 STILLS/QUAY0001.CR3
      0.01 STILLS/QUAY0001.XMP`,
    expected: `
      card . folder-per-clip + numbered-stills
      A001_C001 video: original A001_C001/A001_C001.R3D, sidecar A001_C001/A001_C001.XML
      A001_C002 video: original A001_C002/A001_C002.CRM
      QUAY0001 still: original STILLS/QUAY0001.CR3, sidecar STILLS/QUAY0001.XMP`,
  },
  {
    id: 'same-name-twice',
    what: 'One name in two folders, each with its own sidecar',
    files: `
      900 DCIM/100SKRRY/SKRY0001.MP4
      0.01 DCIM/100SKRRY/SKRY0001.XML
      800 DCIM/101SKRRY/SKRY0001.MP4
      0.01 DCIM/101SKRRY/SKRY0001.XML`,
    expected: `
      card . dcf
      SKRY0001 video: original DCIM/100SKRRY/SKRY0001.MP4, sidecar DCIM/100SKRRY/SKRY0001.XML
      SKRY0001 video: original DCIM/101SKRRY/SKRY0001.MP4, sidecar DCIM/101SKRRY/SKRY0001.XML`,
  },
  {
    id: 'a-day-of-cards',
    what: 'A folder of a day with cards of three kinds in it, and a folder of clips of its own',
    files: `
      900 Day 1/A001/A001_C001/A001_C001.MOV
      900 Day 1/B001/CLIP/T0001.MP4
      20 Day 1/B001/SUB/T0001_px.MP4
      30 Day 1/SND1/T01.WAV
      30 Day 1/SND1/T02.WAV
      900 Day 1/CLIP/promo.mp4
      0.01 Day 1/report.txt`,
    expected: `
      card Day 1 clip-and-sub
      promo video: original CLIP/promo.mp4
      aside report.txt
      card Day 1/A001 folder-per-clip
      A001_C001 video: original A001_C001/A001_C001.MOV
      card Day 1/B001 clip-and-sub
      T0001 video: original CLIP/T0001.MP4, cameraProxy SUB/T0001_px.MP4
      card Day 1/SND1 sound-folder
      T01 sound: original T01.WAV
      T02 sound: original T02.WAV`,
  },
];
