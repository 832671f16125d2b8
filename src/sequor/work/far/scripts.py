"""What changes the board, and says who keeps house, as scripts of Redis (Lua): each is done whole
or not at all.
"""

BEGIN = """
local task = KEYS[1]
if redis.call('HGET', task, 'attempt') ~= ARGV[1] then return 0 end
if redis.call('HGET', task, 'state') ~= 'waiting' then return 0 end
if redis.call('HGET', task, 'program') ~= ARGV[4] then return -1 end
local now = redis.call('TIME')
redis.call('HSET', task, 'state', 'running', 'worker', ARGV[2], 'until', now[1] + ARGV[3])
return 1
"""
BEAT = """
local task = KEYS[1]
if redis.call('HGET', task, 'attempt') ~= ARGV[1] then return 1 end
if redis.call('HGET', task, 'state') ~= 'running' then return 1 end
local now = redis.call('TIME')
redis.call('HSET', task, 'until', now[1] + ARGV[2], 'share', ARGV[3])
return tonumber(redis.call('HGET', task, 'stop') or '0')
"""
END = """
local task = KEYS[1]
if redis.call('HGET', task, 'attempt') ~= ARGV[1] then return 0 end
if redis.call('HGET', task, 'state') ~= 'running' then return 0 end
redis.call('HSET', task, 'state', 'ended', 'good', ARGV[5])
redis.call('SET', KEYS[2], ARGV[2], 'EX', ARGV[3])
redis.call('EXPIRE', task, ARGV[3])
redis.call('DEL', KEYS[3])
redis.call('PUBLISH', KEYS[4], ARGV[4])
return 1
"""
POST = """
local task = KEYS[1]
local state = redis.call('HGET', task, 'state')
local now = redis.call('TIME')
if state == 'ended' and redis.call('HGET', task, 'good') == '1' and ARGV[5] == '1'
  and redis.call('EXISTS', KEYS[3]) == 1 then return 0 end
if state == 'running' and tonumber(redis.call('HGET', task, 'until')) > tonumber(now[1]) then
  redis.call('HSET', task, 'stop', '0')
  return 0
end
local attempt = redis.call('HINCRBY', task, 'attempt', 1)
redis.call('HSET', task, 'state', 'waiting', 'since', now[1], 'share', '0', 'stop', '0',
  'lane', ARGV[1], 'program', ARGV[2], 'worker', '', 'until', '0')
redis.call('SET', KEYS[2], ARGV[3], 'EX', ARGV[4])
redis.call('EXPIRE', task, ARGV[4])
redis.call('DEL', KEYS[3])
return attempt
"""
STOP = """
local task = KEYS[1]
if redis.call('HGET', task, 'state') == 'waiting' then
  redis.call('DEL', task, KEYS[2])
  return 1
end
if redis.call('EXISTS', task) == 1 then redis.call('HSET', task, 'stop', '1') end
return 0
"""
RENEW = """
if redis.call('GET', KEYS[1]) == ARGV[1] then return redis.call('PEXPIRE', KEYS[1], ARGV[2]) end
if redis.call('SET', KEYS[1], ARGV[1], 'NX', 'PX', ARGV[2]) then return 1 end
return 0
"""
LEAVE = """
if redis.call('GET', KEYS[1]) == ARGV[1] then return redis.call('DEL', KEYS[1]) end
return 0
"""
