export {
  knownProfile,
  parseProfile,
  type ProfileFile,
  ProfileFileSchema,
  PROFILE_VERSION,
  type UnknownInProfile,
  writeProfile,
} from './file';
export {
  ALL_SHARED,
  alongPool,
  leavePools,
  poolsOf,
  ownPools,
  type OwnSwitch,
  poolOf,
  type Pools,
  type Sharing,
  SharingSchema,
  switchOwn,
} from './sharing';
