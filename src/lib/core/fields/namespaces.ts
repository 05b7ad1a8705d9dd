/**
 * Names the standards give, in ExifTool's spelling: the namespace in which the IPTC Photo Metadata Standard (2023.1, 8)
 * keeps its older fields, and the digest of the IIM block (MWG guidelines 2.0, 5.3). Nothing of ours is called so.
 */
export const IPTC_OLDER = 'XMP-photoshop';
export const IIM_DIGEST = 'Photoshop:IPTCDigest';
