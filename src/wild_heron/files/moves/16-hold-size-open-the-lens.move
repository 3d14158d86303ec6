{
 "format": "wild-heron-move",
 "version": 1,
 "move": {
  "name": "Hold size, open the lens",
  "line": "The subject keeps its size while the world behind it stretches.",
  "tags": [
   "bold",
   "lens"
  ],
  "frames": 120.0,
  "nodes": [
   {
    "kind": "camera",
    "id": "camera",
    "name": "Camera",
    "channels": [
     {
      "name": "lens.focal",
      "value": 70.0,
      "keys": [
       {
        "frame": 0.0,
        "value": 70.0,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       },
       {
        "frame": 120.0,
        "value": 24.0,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       }
      ]
     },
     {
      "name": "position.z",
      "value": 6.3,
      "keys": [
       {
        "frame": 0.0,
        "value": 6.3,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       },
       {
        "frame": 120.0,
        "value": 2.1599999999999997,
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
  "focuses": true
 }
}
