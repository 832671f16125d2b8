SET FOREIGN_KEY_CHECKS = 0;
CREATE TABLE `acts` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `what` varchar(200) NOT NULL,
  `files_before` longtext DEFAULT NULL CHECK (json_valid(`files_before`)),
  `created_at` datetime NOT NULL,
  PRIMARY KEY (`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
CREATE TABLE `alembic_version` (
  `version_num` varchar(32) NOT NULL,
  PRIMARY KEY (`version_num`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
INSERT INTO alembic_version VALUES ('0008');
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
  PRIMARY KEY (`id`),
  KEY `fk_exports_entry_id` (`entry_id`),
  KEY `ix_exports_picture_id` (`picture_id`),
  KEY `ix_exports_state` (`state`),
  CONSTRAINT `fk_exports_entry_id` FOREIGN KEY (`entry_id`) REFERENCES `ledger_entries` (`id`),
  CONSTRAINT `fk_exports_picture_id` FOREIGN KEY (`picture_id`) REFERENCES `pictures` (`id`)
) ENGINE=InnoDB AUTO_INCREMENT=2 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
INSERT INTO exports VALUES (1, 1, 3, 'png', 95, 'done', NULL, 115, 77, 26662, 0, '2026-11-29 07:07:05', '2026-11-29 07:07:10', '{\"format\": \"png\", \"quality\": 95, \"size\": {\"kind\": \"full\", \"pixels\": null, \"width\": null, \"height\": null, \"enlarge\": false}, \"bits\": null, \"srgb\": false, \"metadata\": \"all\", \"pattern\": \"{name}-levelled\"}', 'p0-levelled.png', 0.0);
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
INSERT INTO ledger_entries VALUES (1, 1, NULL, 'as shot', '{\"version\": 4, \"readings\": [], \"trim\": {\"roll_deg\": 0.0, \"lean_deg\": 0.0, \"swing_deg\": 0.0}, \"hold\": {\"roll_deg\": null, \"lean_deg\": null, \"swing_deg\": null}, \"leave_in\": {\"roll\": null, \"lean\": null, \"swing\": null}, \"ease\": {\"roll\": 1.0, \"perspective\": 1.0}, \"focal35_mm\": null, \"lens\": {\"source\": \"traces\", \"k1\": 0.0, \"k2\": 0.0, \"polynomial\": [0.0, 0.0, 0.0, 0.0], \"name\": \"\"}, \"proportion\": 1.0, \"frame\": {\"ratio\": \"original\", \"print_size\": null, \"keep\": null, \"aim\": null, \"placed\": null, \"keep_measured\": true}, \"fill\": {\"allowance\": 0.0, \"method\": \"patches\", \"colour\": \"#ffffff\", \"candidates\": [{\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}], \"avoid\": []}, \"bend\": {\"lines\": 0.0, \"corners\": 0.0, \"still\": [], \"edges\": null, \"max_stretch\": 1.6}, \"rubbed_out\": []}', 0.0, 1.0, '2026-11-29 07:07:01', 0.0, 0.0, '1fa008a9e2e291fd61b7f56007b243ec', NULL, 0);
INSERT INTO ledger_entries VALUES (2, 2, NULL, 'as shot', '{\"version\": 4, \"readings\": [], \"trim\": {\"roll_deg\": 0.0, \"lean_deg\": 0.0, \"swing_deg\": 0.0}, \"hold\": {\"roll_deg\": null, \"lean_deg\": null, \"swing_deg\": null}, \"leave_in\": {\"roll\": null, \"lean\": null, \"swing\": null}, \"ease\": {\"roll\": 1.0, \"perspective\": 1.0}, \"focal35_mm\": null, \"lens\": {\"source\": \"traces\", \"k1\": 0.0, \"k2\": 0.0, \"polynomial\": [0.0, 0.0, 0.0, 0.0], \"name\": \"\"}, \"proportion\": 1.0, \"frame\": {\"ratio\": \"original\", \"print_size\": null, \"keep\": null, \"aim\": null, \"placed\": null, \"keep_measured\": true}, \"fill\": {\"allowance\": 0.0, \"method\": \"patches\", \"colour\": \"#ffffff\", \"candidates\": [{\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}], \"avoid\": []}, \"bend\": {\"lines\": 0.0, \"corners\": 0.0, \"still\": [], \"edges\": null, \"max_stretch\": 1.6}, \"rubbed_out\": []}', 0.0, 1.0, '2026-11-29 07:07:05', 0.0, 0.0, '1fa008a9e2e291fd61b7f56007b243ec', NULL, 0);
INSERT INTO ledger_entries VALUES (3, 1, 1, 'turned by hand', '{\"version\": 4, \"readings\": [], \"trim\": {\"roll_deg\": 1.5, \"lean_deg\": 0.0, \"swing_deg\": 0.0}, \"hold\": {\"roll_deg\": null, \"lean_deg\": null, \"swing_deg\": null}, \"leave_in\": {\"roll\": null, \"lean\": null, \"swing\": null}, \"ease\": {\"roll\": 1.0, \"perspective\": 1.0}, \"focal35_mm\": null, \"lens\": {\"source\": \"traces\", \"k1\": 0.0, \"k2\": 0.0, \"polynomial\": [0.0, 0.0, 0.0, 0.0], \"name\": \"\"}, \"proportion\": 1.0, \"frame\": {\"ratio\": \"original\", \"print_size\": null, \"keep\": null, \"aim\": null, \"placed\": null, \"keep_measured\": true}, \"fill\": {\"allowance\": 0.0, \"method\": \"patches\", \"colour\": \"#ffffff\", \"candidates\": [{\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}], \"avoid\": []}, \"bend\": {\"lines\": 0.0, \"corners\": 0.0, \"still\": [], \"edges\": null, \"max_stretch\": 1.6}, \"rubbed_out\": []}', 1.5000000000000002, 0.9223958333333333, '2026-11-29 07:07:05', 0.0, 0.0, 'fc01c7f882d0b34d836c83c382404766', NULL, 0);
INSERT INTO ledger_entries VALUES (4, 1, 3, 'turned by hand', '{\"version\": 4, \"readings\": [], \"trim\": {\"roll_deg\": 2.5, \"lean_deg\": 0.0, \"swing_deg\": 0.0}, \"hold\": {\"roll_deg\": null, \"lean_deg\": null, \"swing_deg\": null}, \"leave_in\": {\"roll\": null, \"lean\": null, \"swing\": null}, \"ease\": {\"roll\": 1.0, \"perspective\": 1.0}, \"focal35_mm\": null, \"lens\": {\"source\": \"traces\", \"k1\": 0.0, \"k2\": 0.0, \"polynomial\": [0.0, 0.0, 0.0, 0.0], \"name\": \"\"}, \"proportion\": 1.0, \"frame\": {\"ratio\": \"original\", \"print_size\": null, \"keep\": null, \"aim\": null, \"placed\": null, \"keep_measured\": true}, \"fill\": {\"allowance\": 0.0, \"method\": \"patches\", \"colour\": \"#ffffff\", \"candidates\": [{\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}, {\"style\": \"sharp\", \"draw\": 1}], \"avoid\": []}, \"bend\": {\"lines\": 0.0, \"corners\": 0.0, \"still\": [], \"edges\": null, \"max_stretch\": 1.6}, \"rubbed_out\": []}', 2.5, 0.8749999999999997, '2026-11-29 07:07:10', 0.0, 0.0, '5c8e23355561da9870d7c9a3641567fe', NULL, 0);
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
  PRIMARY KEY (`sha256`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
INSERT INTO originals VALUES ('510ac635b9029854669307f391868b974f069ea77c12b1fb014bf02b6b9df4f4', 29188, 'PNG', 121, 80, 3, 8, 1, NULL, NULL, '2026-11-29 07:07:05', NULL, NULL, NULL, NULL);
INSERT INTO originals VALUES ('ee1fb514fc377b88c4d53e7560e3f21aed36e4ab0253c0737e2fe5323ecaf6d2', 28948, 'PNG', 120, 80, 3, 8, 1, NULL, NULL, '2026-11-29 07:07:01', NULL, NULL, NULL, NULL);
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
INSERT INTO picture_sets (id, name, created_at, description, place, binned_at) VALUES (1, 'Coast', '2026-11-29 07:06:48', '', 0, NULL);
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
INSERT INTO pictures VALUES (1, 1, 'ee1fb514fc377b88c4d53e7560e3f21aed36e4ab0253c0737e2fe5323ecaf6d2', 'p0.png', 3, '2026-11-29 07:07:01', 1, '', NULL, '{\"format\": \"png\", \"quality\": 95, \"size\": {\"kind\": \"full\", \"pixels\": null, \"width\": null, \"height\": null, \"enlarge\": false}, \"bits\": null, \"srgb\": false, \"metadata\": \"all\", \"pattern\": \"{name}-levelled\"}');
INSERT INTO pictures VALUES (2, 1, '510ac635b9029854669307f391868b974f069ea77c12b1fb014bf02b6b9df4f4', 'p1.png', 2, '2026-11-29 07:07:05', 1, '', NULL, NULL);
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
  PRIMARY KEY (`token`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
SET FOREIGN_KEY_CHECKS = 1;
