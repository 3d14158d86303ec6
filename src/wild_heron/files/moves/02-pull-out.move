{
 "format": "wild-heron-move",
 "version": 1,
 "move": {
  "name": "Pull out",
  "line": "Goes back from a detail and shows what it belongs to.",
  "tags": [
   "calm",
   "push"
  ],
  "frames": 96.0,
  "nodes": [
   {
    "kind": "camera",
    "id": "camera",
    "name": "Camera",
    "channels": [
     {
      "name": "position.z",
      "value": 2.3,
      "keys": [
       {
        "frame": 0.0,
        "value": 2.3,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       },
       {
        "frame": 96.0,
        "value": 4.4,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       }
      ]
     }
    ]
   }
  ],
  "camera": "camera",
  "rest": "start",
  "focuses": true
 }
}
