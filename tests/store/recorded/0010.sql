SET FOREIGN_KEY_CHECKS = 0;
CREATE TABLE `acts` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `what` varchar(200) NOT NULL,
  `files_before` longtext DEFAULT NULL CHECK (json_valid(`files_before`)),
  `created_at` datetime NOT NULL,
  `files_after` longtext DEFAULT NULL CHECK (json_valid(`files_after`)),
  PRIMARY KEY (`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
CREATE TABLE `alembic_version` (
  `version_num` varchar(32) NOT NULL,
  PRIMARY KEY (`version_num`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
INSERT INTO alembic_version VALUES ('0010');
CREATE TABLE `exports` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `picture_id` int(11) NOT NULL,
  `entry_id` int(11) NOT NULL,
  `format` varchar(8) NOT NULL,
  `quality` int(11) NOT NULL,
  `state` varchar(12) NOT NULL,
  `problem` text DEFAULT NULL,
  `width` int(11) DEFAULT NULL,
  `height` int(11) DEFAULT NULL,
  `byte_size` bigint(20) DEFAULT NULL,
  `empty_pixels` bigint(20) DEFAULT NULL,
  `created_at` datetime NOT NULL,
  `finished_at` datetime DEFAULT NULL,
  `options` longtext DEFAULT NULL CHECK (json_valid(`options`)),
  `file_name` varchar(255) DEFAULT NULL,
  `filled_share` double DEFAULT NULL,
  `begun` int(11) NOT NULL DEFAULT 0,
  PRIMARY KEY (`id`),
  KEY `fk_exports_entry_id` (`entry_id`),
  KEY `ix_exports_picture_id` (`picture_id`),
  KEY `ix_exports_state` (`state`),
  CONSTRAINT `fk_exports_entry_id` FOREIGN KEY (`entry_id`) REFERENCES `ledger_entries` (`id`),
  CONSTRAINT `fk_exports_picture_id` FOREIGN KEY (`picture_id`) REFERENCES `pictures` (`id`)
) ENGINE=InnoDB AUTO_INCREMENT=2 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
INSERT INTO exports (id, picture_id, entry_id, format, quality, state, problem, width, height, byte_size, empty_pixels, created_at, finished_at, options, file_name, filled_share, begun) VALUES (1, 1, 3, 'png', 95, 'done', NULL, 866, 577, 17445, 0, '2026-12-01 15:46:00', '2026-12-01 15:46:10', '{\"format\": \"png\", \"quality\": 95, \"size\": {\"kind\": \"full\", \"pixels\": null, \"width\": null, \"height\": null, \"enlarge\": false}, \"bits\": null, \"srgb\": false, \"metadata\": \"all\", \"chroma\": \"auto\", \"progressive\": false, \"packing\": \"deflate\", \"linear\": true, \"sharpen\": 0, \"pattern\": \"{name}-levelled\"}', 'p0-levelled.png', 0.0, 1);
CREATE TABLE `kept_answers` (
  `request_key` varchar(64) NOT NULL,
  `asked` varchar(64) NOT NULL,
  `status` int(11) NOT NULL,
  `body` mediumblob NOT NULL,
  `made_at` datetime NOT NULL,
  PRIMARY KEY (`request_key`),
  KEY `ix_kept_answers_made_at` (`made_at`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
CREATE TABLE `ledger_entries` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `picture_id` int(11) NOT NULL,
  `parent_id` int(11) DEFAULT NULL,
  `what` varchar(200) NOT NULL,
  `recipe` longtext NOT NULL CHECK (json_valid(`recipe`)),
  `roll_deg` double NOT NULL,
  `kept_fraction` double NOT NULL,
  `created_at` datetime NOT NULL,
  `lean_deg` double NOT NULL DEFAULT 0,
  `swing_deg` double NOT NULL DEFAULT 0,
  `recipe_hash` varchar(32) NOT NULL,
  `act_id` int(11) DEFAULT NULL,
  `framed` tinyint(1) NOT NULL DEFAULT 0,
  PRIMARY KEY (`id`),
  KEY `ix_ledger_entries_parent_id` (`parent_id`),
  KEY `ix_ledger_entries_picture_id` (`picture_id`),
  KEY `ix_ledger_entries_recipe_hash` (`recipe_hash`),
  KEY `ix_ledger_entries_act_id` (`act_id`),
  CONSTRAINT `fk_ledger_entries_act_id` FOREIGN KEY (`act_id`) REFERENCES `acts` (`id`),
  CONSTRAINT `fk_ledger_entries_parent_id` FOREIGN KEY (`parent_id`) REFERENCES `ledger_entries` (`id`),
  CONSTRAINT `fk_ledger_entries_picture_id` FOREIGN KEY (`picture_id`) REFERENCES `pictures` (`id`)
) ENGINE=InnoDB AUTO_INCREMENT=5 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
INSERT INTO ledger_entries (id, picture_id, parent_id, what, recipe, roll_deg, kept_fraction, created_at, lean_deg, swing_deg, recipe_hash, act_id, framed) VALUES (1, 1, NULL, 'as shot', '{\"version\": 7, \"readings\": [], \"trim\": {\"roll_deg\": 0.0, \"lean_deg\": 0.0, \"swing_deg\": 0.0, \"stated\": [], \"by_eye_sigma_deg\": null}, \"given_way\": {\"roll_deg\": 0.0, \"lean_deg\": 0.0, \"swing_deg\": 0.0}, \"hold\": {\"roll_deg\": null, \"lean_deg\": null, \"swing_deg\": null}, \"leave_in\": {\"roll\": null, \"lean\": null, \"swing\": null, \"turn_the_roll\": false}, \"ease\": {\"roll\": 1.0, \"lean\": 1.0, \"swing\": 1.0}, \"focal35_mm\": null, \"lens\": {\"source\": \"traces\", \"k1\": 0.0, \"k2\": 0.0, \"polynomial\": [0.0, 0.0, 0.0, 0.0], \"name\": \"\"}, \"proportion\": 1.0, \"true_shape\": null, \"frame\": {\"ratio\": \"original\", \"print_size\": null, \"keep\": null, \"air\": 0.0, \"looks\": null, \"aim\": null, \"placed\": null, \"keep_measured\": true, \"foot_first\": true}, \"fill\": {\"allowance\": 0.0, \"method\": \"patches\", \"colour\": \"#ffffff\", \"candidates\": [{\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}], \"avoid\": []}, \"bend\": {\"lines\": 0.0, \"corners\": 0.0, \"still\": [], \"edges\": null, \"max_stretch\": 1.6}, \"rubbed_out\": []}', 0.0, 1.0, '2026-12-01 15:45:59', 0.0, 0.0, '1f81ce48d2d391dc3e2fd52c1a4aa831', NULL, 0);
INSERT INTO ledger_entries (id, picture_id, parent_id, what, recipe, roll_deg, kept_fraction, created_at, lean_deg, swing_deg, recipe_hash, act_id, framed) VALUES (2, 2, NULL, 'as shot', '{\"version\": 7, \"readings\": [], \"trim\": {\"roll_deg\": 0.0, \"lean_deg\": 0.0, \"swing_deg\": 0.0, \"stated\": [], \"by_eye_sigma_deg\": null}, \"given_way\": {\"roll_deg\": 0.0, \"lean_deg\": 0.0, \"swing_deg\": 0.0}, \"hold\": {\"roll_deg\": null, \"lean_deg\": null, \"swing_deg\": null}, \"leave_in\": {\"roll\": null, \"lean\": null, \"swing\": null, \"turn_the_roll\": false}, \"ease\": {\"roll\": 1.0, \"lean\": 1.0, \"swing\": 1.0}, \"focal35_mm\": null, \"lens\": {\"source\": \"traces\", \"k1\": 0.0, \"k2\": 0.0, \"polynomial\": [0.0, 0.0, 0.0, 0.0], \"name\": \"\"}, \"proportion\": 1.0, \"true_shape\": null, \"frame\": {\"ratio\": \"original\", \"print_size\": null, \"keep\": null, \"air\": 0.0, \"looks\": null, \"aim\": null, \"placed\": null, \"keep_measured\": true, \"foot_first\": true}, \"fill\": {\"allowance\": 0.0, \"method\": \"patches\", \"colour\": \"#ffffff\", \"candidates\": [{\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}], \"avoid\": []}, \"bend\": {\"lines\": 0.0, \"corners\": 0.0, \"still\": [], \"edges\": null, \"max_stretch\": 1.6}, \"rubbed_out\": []}', 0.0, 1.0, '2026-12-01 15:46:00', 0.0, 0.0, '1f81ce48d2d391dc3e2fd52c1a4aa831', NULL, 0);
INSERT INTO ledger_entries (id, picture_id, parent_id, what, recipe, roll_deg, kept_fraction, created_at, lean_deg, swing_deg, recipe_hash, act_id, framed) VALUES (3, 1, 1, 'turned by hand', '{\"version\": 7, \"readings\": [], \"trim\": {\"roll_deg\": 1.5, \"lean_deg\": 0.0, \"swing_deg\": 0.0, \"stated\": [\"roll\"], \"by_eye_sigma_deg\": null}, \"given_way\": {\"roll_deg\": 0.0, \"lean_deg\": 0.0, \"swing_deg\": 0.0}, \"hold\": {\"roll_deg\": null, \"lean_deg\": null, \"swing_deg\": null}, \"leave_in\": {\"roll\": null, \"lean\": null, \"swing\": null, \"turn_the_roll\": false}, \"ease\": {\"roll\": 1.0, \"lean\": 1.0, \"swing\": 1.0}, \"focal35_mm\": null, \"lens\": {\"source\": \"traces\", \"k1\": 0.0, \"k2\": 0.0, \"polynomial\": [0.0, 0.0, 0.0, 0.0], \"name\": \"\"}, \"proportion\": 1.0, \"true_shape\": null, \"frame\": {\"ratio\": \"original\", \"print_size\": null, \"keep\": null, \"air\": 0.0, \"looks\": null, \"aim\": null, \"placed\": null, \"keep_measured\": true, \"foot_first\": true}, \"fill\": {\"allowance\": 0.0, \"method\": \"patches\", \"colour\": \"#ffffff\", \"candidates\": [{\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}], \"avoid\": []}, \"bend\": {\"lines\": 0.0, \"corners\": 0.0, \"still\": [], \"edges\": null, \"max_stretch\": 1.6}, \"rubbed_out\": []}', 1.5000000000000002, 0.9253370370370371, '2026-12-01 15:46:00', 0.0, 0.0, '3d1d5661eac811d43d592fa1902c0cd5', NULL, 0);
INSERT INTO ledger_entries (id, picture_id, parent_id, what, recipe, roll_deg, kept_fraction, created_at, lean_deg, swing_deg, recipe_hash, act_id, framed) VALUES (4, 2, 2, 'turned by hand', '{\"version\": 7, \"readings\": [], \"trim\": {\"roll_deg\": 0.7, \"lean_deg\": 0.0, \"swing_deg\": 0.0, \"stated\": [\"roll\"], \"by_eye_sigma_deg\": null}, \"given_way\": {\"roll_deg\": 0.0, \"lean_deg\": 0.0, \"swing_deg\": 0.0}, \"hold\": {\"roll_deg\": null, \"lean_deg\": null, \"swing_deg\": null}, \"leave_in\": {\"roll\": null, \"lean\": null, \"swing\": null, \"turn_the_roll\": false}, \"ease\": {\"roll\": 1.0, \"lean\": 1.0, \"swing\": 1.0}, \"focal35_mm\": null, \"lens\": {\"source\": \"traces\", \"k1\": 0.0, \"k2\": 0.0, \"polynomial\": [0.0, 0.0, 0.0, 0.0], \"name\": \"\"}, \"proportion\": 1.0, \"true_shape\": null, \"frame\": {\"ratio\": \"original\", \"print_size\": null, \"keep\": null, \"air\": 0.0, \"looks\": null, \"aim\": null, \"placed\": null, \"keep_measured\": true, \"foot_first\": true}, \"fill\": {\"allowance\": 0.0, \"method\": \"patches\", \"colour\": \"#ffffff\", \"candidates\": [{\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}], \"avoid\": []}, \"bend\": {\"lines\": 0.0, \"corners\": 0.0, \"still\": [], \"edges\": null, \"max_stretch\": 1.6}, \"rubbed_out\": []}', 0.7, 0.9631240740740739, '2026-12-01 15:46:00', 0.0, 0.0, '666aaee5d3b5e2581389ee8848902b8a', NULL, 0);
CREATE TABLE `originals` (
  `sha256` varchar(64) NOT NULL,
  `byte_size` bigint(20) NOT NULL,
  `format` varchar(8) NOT NULL,
  `width` int(11) NOT NULL,
  `height` int(11) NOT NULL,
  `channels` int(11) NOT NULL,
  `bits` int(11) NOT NULL,
  `orientation` int(11) NOT NULL,
  `profile` varchar(200) DEFAULT NULL,
  `focal35_mm` double DEFAULT NULL,
  `created_at` datetime NOT NULL,
  `damage` varchar(200) DEFAULT NULL,
  `verified_at` datetime DEFAULT NULL,
  `focal_source` varchar(8) DEFAULT NULL,
  `taken_at` datetime DEFAULT NULL,
  `taken_damaged` varchar(300) DEFAULT NULL,
  `bow` longtext DEFAULT NULL CHECK (json_valid(`bow`)),
  `pose` longtext DEFAULT NULL CHECK (json_valid(`pose`)),
  `remarks` longtext DEFAULT NULL CHECK (json_valid(`remarks`)),
  PRIMARY KEY (`sha256`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
INSERT INTO originals (sha256, byte_size, format, width, height, channels, bits, orientation, profile, focal35_mm, created_at, damage, verified_at, focal_source, taken_at, taken_damaged, bow, pose, remarks) VALUES ('677b41f7aec219b8be72595f16edc55547e6e974c590c0237665a6e786191d57', 3123, 'PNG', 900, 600, 3, 8, 1, NULL, NULL, '2026-12-01 15:45:39', NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL);
INSERT INTO originals (sha256, byte_size, format, width, height, channels, bits, orientation, profile, focal35_mm, created_at, damage, verified_at, focal_source, taken_at, taken_damaged, bow, pose, remarks) VALUES ('f155ae9aeb7f2a074a7996620060da88a6b6757fecb5149d8dbec45290292a64', 3102, 'PNG', 900, 600, 3, 8, 1, NULL, NULL, '2026-12-01 15:46:00', NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL);
CREATE TABLE `picture_sets` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `name` varchar(120) NOT NULL,
  `created_at` datetime NOT NULL,
  `description` varchar(1000) NOT NULL DEFAULT '',
  `place` int(11) NOT NULL DEFAULT 0,
  `binned_at` datetime DEFAULT NULL,
  `live` int(11) GENERATED ALWAYS AS (if(`binned_at` is null,1,NULL)) STORED,
  PRIMARY KEY (`id`),
  UNIQUE KEY `uq_picture_sets_name_live` (`name`,`live`)
) ENGINE=InnoDB AUTO_INCREMENT=2 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
INSERT INTO picture_sets (id, name, created_at, description, place, binned_at, live) VALUES (1, 'Coast', '2026-12-01 15:45:36', '', 0, NULL, DEFAULT);
CREATE TABLE `pictures` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `set_id` int(11) NOT NULL,
  `original_sha256` varchar(64) NOT NULL,
  `name` varchar(255) NOT NULL,
  `head_id` int(11) DEFAULT NULL,
  `added_at` datetime NOT NULL,
  `version` int(11) NOT NULL DEFAULT 1,
  `version_name` varchar(60) NOT NULL DEFAULT '',
  `binned_at` datetime DEFAULT NULL,
  `file_options` longtext DEFAULT NULL CHECK (json_valid(`file_options`)),
  PRIMARY KEY (`id`),
  UNIQUE KEY `uq_pictures_set_id_original_sha256_version` (`set_id`,`original_sha256`,`version`),
  KEY `ix_pictures_original_sha256` (`original_sha256`),
  KEY `fk_pictures_head_id` (`head_id`),
  CONSTRAINT `fk_pictures_head_id` FOREIGN KEY (`head_id`) REFERENCES `ledger_entries` (`id`),
  CONSTRAINT `fk_pictures_original_sha256` FOREIGN KEY (`original_sha256`) REFERENCES `originals` (`sha256`),
  CONSTRAINT `fk_pictures_set_id` FOREIGN KEY (`set_id`) REFERENCES `picture_sets` (`id`)
) ENGINE=InnoDB AUTO_INCREMENT=3 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
INSERT INTO pictures (id, set_id, original_sha256, name, head_id, added_at, version, version_name, binned_at, file_options) VALUES (1, 1, '677b41f7aec219b8be72595f16edc55547e6e974c590c0237665a6e786191d57', 'p0.png', 3, '2026-12-01 15:45:39', 1, '', NULL, '{\"format\": \"png\", \"quality\": 95, \"size\": {\"kind\": \"full\", \"pixels\": null, \"width\": null, \"height\": null, \"enlarge\": false}, \"bits\": null, \"srgb\": false, \"metadata\": \"all\", \"chroma\": \"auto\", \"progressive\": false, \"packing\": \"deflate\", \"linear\": true, \"sharpen\": 0, \"pattern\": \"{name}-levelled\"}');
INSERT INTO pictures (id, set_id, original_sha256, name, head_id, added_at, version, version_name, binned_at, file_options) VALUES (2, 1, 'f155ae9aeb7f2a074a7996620060da88a6b6757fecb5149d8dbec45290292a64', 'p1.png', 2, '2026-12-01 15:46:00', 1, '', NULL, NULL);
CREATE TABLE `presets` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `name` varchar(60) NOT NULL,
  `options` longtext NOT NULL CHECK (json_valid(`options`)),
  PRIMARY KEY (`id`),
  UNIQUE KEY `uq_presets_name` (`name`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
CREATE TABLE `print_sizes` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `name` varchar(80) NOT NULL,
  `width` double NOT NULL,
  `height` double NOT NULL,
  `unit` varchar(2) NOT NULL,
  `ppi` double NOT NULL,
  PRIMARY KEY (`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
CREATE TABLE `proposals` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `original_sha256` varchar(64) NOT NULL,
  `recipe_hash` varchar(32) NOT NULL,
  `want` varchar(8) NOT NULL,
  `version` int(11) NOT NULL,
  `proposal` longtext NOT NULL CHECK (json_valid(`proposal`)),
  `made_at` datetime NOT NULL,
  PRIMARY KEY (`id`),
  UNIQUE KEY `uq_proposals_key` (`original_sha256`,`recipe_hash`,`want`,`version`),
  CONSTRAINT `fk_proposals_original_sha256` FOREIGN KEY (`original_sha256`) REFERENCES `originals` (`sha256`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
CREATE TABLE `receipts` (
  `token` varchar(32) NOT NULL,
  `made_at` datetime NOT NULL,
  PRIMARY KEY (`token`),
  KEY `ix_receipts_made_at` (`made_at`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
INSERT INTO receipts (token, made_at) VALUES ('b5226c939f15a0dbbf4fe206cfb0d331', '2026-12-01 15:45:36');
INSERT INTO receipts (token, made_at) VALUES ('68acaf68b5dfaac7221ed1e3ac8fb9e9', '2026-12-01 15:45:59');
INSERT INTO receipts (token, made_at) VALUES ('302e8a75af5442d555b02003005f9c16', '2026-12-01 15:46:00');
INSERT INTO receipts (token, made_at) VALUES ('5d38d4ae8739cc922e0a1e331057e2ee', '2026-12-01 15:46:00');
INSERT INTO receipts (token, made_at) VALUES ('6af9a62decc77be553bb9a0d40502543', '2026-12-01 15:46:00');
INSERT INTO receipts (token, made_at) VALUES ('6f3ecfb7a6964b4375eef885e332f4ea', '2026-12-01 15:46:00');
INSERT INTO receipts (token, made_at) VALUES ('b409a093e6827e832dddf898200e8c62', '2026-12-01 15:46:00');
INSERT INTO receipts (token, made_at) VALUES ('f00ad33d84fd7c967c7174dcb64297ab', '2026-12-01 15:46:00');
INSERT INTO receipts (token, made_at) VALUES ('592abb470e738eed7bd0a7031acb1966', '2026-12-01 15:46:10');
CREATE TABLE `unsettled` (
  `picture_id` int(11) NOT NULL,
  `version` int(11) NOT NULL,
  `reason` varchar(300) NOT NULL,
  `tries` int(11) NOT NULL,
  `again_at` datetime NOT NULL,
  PRIMARY KEY (`picture_id`),
  CONSTRAINT `fk_unsettled_picture_id` FOREIGN KEY (`picture_id`) REFERENCES `pictures` (`id`) ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
SET FOREIGN_KEY_CHECKS = 1;
